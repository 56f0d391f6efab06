import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { toJson } from '@lurn/core/formats';
import { EMPTY_TRACK, withSamples } from '@lurn/core/track';
import { ffmpegPath } from '@lurn/engine';
import { FIRST_MOVER, NEW_SPOT, newDocument, type ShotDocument } from '@lurn/model';
import { TestServer } from '../e2e/server.js';
import type { Show } from './tracking.js';

/** How long others wait for the server while a large shot is saved and read: 100 spots over 3000 frames. */

const [SPOTS, FRAMES] = [100, 3000];

export async function saving(show: Show): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-saving-'));
  const server = await TestServer.start();
  try {
    const file = join(folder, 'long.mp4');
    const source = `testsrc2=size=160x120:rate=25:duration=${FRAMES / 25}`;
    const coded = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-preset', 'ultrafast'];
    const run = promisify(execFile);
    await run(await ffmpegPath(), ['-v', 'error', '-f', 'lavfi', '-i', source, ...coded, file]);
    await server.upload('long.mp4', await readFile(file));
    const { id } = await server.clip('long');
    await waits(server, () => Promise.resolve(), 30); // warm
    const idle = await waits(server, () => new Promise((resume) => setTimeout(resume, 2000)), 0);
    show('server idle: longest answer to the list of clips', `${idle.most.toFixed(0)} ms`, '-');
    for (const round of [0, 1]) {
      const body = JSON.stringify({ revision: round, ...largeShot() });
      const saved = await waits(
        server,
        async () => {
          const answer = await fetch(`${server.url}/api/clips/${id}/shot`, {
            ...{ method: 'PUT', body, headers: { 'Content-Type': 'application/json' } },
          });
          if (!answer.ok) throw new Error(await answer.text());
        },
        0,
      );
      show(
        `saving ${SPOTS} spots x ${FRAMES} frames (${(body.length / 1e6).toFixed(0)} MB), ${(saved.took / 1000).toFixed(1)} s: longest other answer`,
        `${saved.most.toFixed(0)} ms`,
        '<= 200 ms',
      );
    }
    const read = await waits(
      server,
      async () => {
        const answer = await fetch(`${server.url}/api/clips/${id}/shot`);
        // Taken as it comes: to make one text of it would hold up this process, which measures.
        for await (const piece of answer.body!) void piece;
      },
      0,
    );
    show(
      `reading it, ${(read.took / 1000).toFixed(1)} s: longest other answer`,
      `${read.most.toFixed(0)} ms`,
      '<= 200 ms',
    );
  } finally {
    await server.stop();
    await rm(folder, { recursive: true, force: true });
  }
}

/** Asks for the list of clips again and again while something is done. @returns milliseconds */
async function waits(
  server: TestServer,
  work: () => Promise<void>,
  least: number,
): Promise<{ most: number; took: number }> {
  const start = performance.now();
  let [done, most, took] = [false, 0, 0];
  const working = work().finally(() => {
    done = true;
    took = performance.now() - start;
  });
  for (let n = 0; !done || n < least; n++) {
    const asked = performance.now();
    await server.clips();
    most = Math.max(most, performance.now() - asked);
    await new Promise((resume) => setTimeout(resume, 5));
  }
  await working;
  return { most, took };
}

function largeShot(): { document: ShotDocument; measured: Record<string, unknown> } {
  const track = toJson(
    withSamples(
      EMPTY_TRACK,
      Array.from({ length: FRAMES }, (_, frame) => ({
        ...{ frame, x: 60.1234 + Math.sin(frame / 7), y: 50.4321 - Math.cos(frame / 9), confidence: 0.987 },
        ...{ state: 'tracked' as const, turn: 0.001234, scale: 1.004567 },
      })),
    ),
  );
  const ids = Array.from({ length: SPOTS }, (_, i) => `s${i}`);
  const trackers = ids.map((id) => ({
    ...NEW_SPOT,
    ...{
      id,
      name: id,
      mover: FIRST_MOVER.id,
      colour: 0,
      patch: [8, 8],
      reach: [12, 12],
      minConfidence: 0.15,
    },
  })) as ShotDocument['trackers'];
  const document = { ...newDocument({ width: 160, height: 120, frames: FRAMES }), trackers };
  return { document, measured: Object.fromEntries(ids.map((id) => [id, track])) };
}
