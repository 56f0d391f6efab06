import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { chromium } from '@playwright/test';
import { toJson } from '@lurn/core/formats';
import { EMPTY_SOFT_TRACK, makeMesh, trackSoft, withSoftSamples, type SoftToTrack } from '@lurn/core/track';
import { ffmpegPath } from '@lurn/engine';
import {
  addSurface,
  cornersAbout,
  newDocument,
  NEW_EDGE,
  NEW_LAYER,
  NEW_SOFT,
  NEW_TEXT_STYLE,
  softSettingsOf,
  storedMesh,
  type Layer,
  type ShotState,
  type SoftSurface,
} from '@lurn/model';
import { BenchDriver, truthOf } from '../../e2e/bench-page.js';
import { TestServer } from '../../e2e/server.js';
import { InMemory } from '../made-up.js';
import { median } from '../median.js';
import { planesOf } from '../planes.js';
import { seenWhilePlaying } from '../playing.js';
import type { Show } from '../tracking.js';

const ROUNDS = 3;
/** The demo's flag as 720p. */
const [WIDTH, HEIGHT, LARGER] = [1280, 720, 4 / 3];
const OUTLINE = [
  [322, 90],
  [500, 96],
  [694, 126],
  [694, 372],
  [500, 360],
  [322, 364],
].map(([x, y]) => ({ x: x * LARGER, y: y * LARGER }));

/** A flag of 720p laid flat, with a text on it, on the Bench: pictures seen of those of the clip. */
export async function softPlaying(show: Show): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-soft-play-'));
  const file = join(folder, 'flag720.mp4');
  const encode = ['-vf', `scale=${WIDTH}:${HEIGHT}:flags=bicubic`, '-c:v', 'libx264', '-crf', '16', '-pix_fmt', 'yuv420p', '-an', file]; // prettier-ignore
  await promisify(execFile)(await ffmpegPath(), ['-y', '-v', 'error', '-i', 'demo/shots/flag.mp4', ...encode]); // prettier-ignore
  const planes = await planesOf(file);
  const clip = { width: WIDTH, height: HEIGHT, frames: planes.length };
  const state = await withFlag(planes, clip);
  const layer: Layer = {
    ...{ ...NEW_LAYER, id: 'text', name: 'text', frame: 0 },
    rides: { on: 'soft', id: 'flag', rotation: true, scale: true },
    ...{ kind: 'text', text: 'Valley', style: NEW_TEXT_STYLE, edge: NEW_EDGE },
    corners: cornersAbout(470 * LARGER, 230 * LARGER, 240, 110),
  };
  const server = await TestServer.start();
  await server.upload('flag720.mp4', await readFile(file));
  await server.clip('flag720');
  const browser = await chromium.launch({
    executablePath: process.env.LURN_CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-background-networking', '--enable-unsafe-swiftshader'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const bench = new BenchDriver(page, truthOf('flag').clip);
  const rateWith = async (layers: Layer[]) => {
    const document = { ...state.document, layers, goal: { ...state.document.goal, goal: 'still' as const } };
    await server.save('flag720', { document, measured: { flag: toJson(state.measured.flag) } });
    await bench.open(server.url, 'flag720');
    await bench.key('7');
    await page.getByTestId('view').getByRole('button', { name: 'Steadied', exact: true }).click();
    await page.waitForTimeout(4000);
    const rates: number[] = [];
    for (let round = 0; round < ROUNDS; round++) rates.push((await seenWhilePlaying(page)) / 30);
    return median(rates);
  };
  const [flat, work] = [await rateWith([]), await rateWith([layer])];
  show(
    'soft surface, 720p: pictures seen / of the clip, laid flat, and with a graphic on it',
    `${flat.toFixed(2)}, ${work.toFixed(2)}`,
    '>= 0.95',
  );
  await browser.close();
  await server.stop();
  await rm(folder, { recursive: true });
}

async function withFlag(
  planes: Awaited<ReturnType<typeof planesOf>>,
  clip: { width: number; height: number; frames: number },
): Promise<ShotState> {
  const shape = OUTLINE.map(({ x, y }) => [x, y] as const);
  const mesh = makeMesh({ outline: OUTLINE, spacing: 50, fit: 'even' }, planes[0]);
  const soft: Omit<SoftSurface, 'mover'> = {
    ...NEW_SOFT,
    ...{ id: 'flag', name: 'flag', colour: 0, frame: 0, ...storedMesh(mesh) },
    shapes: [{ kind: 'focus', smooth: false, keys: [{ frame: 0, shape }] }],
  } as Omit<SoftSurface, 'mover'>;
  const one: SoftToTrack = {
    ...{ id: 'flag', name: 'flag', frame: 0, vertices: mesh.vertices, track: EMPTY_SOFT_TRACK },
    ...{ shapes: soft.shapes, settings: softSettingsOf(soft as SoftSurface) },
  };
  let track = EMPTY_SOFT_TRACK;
  for await (const step of trackSoft(new InMemory(planes), { soft: [one], from: 0, to: planes.length - 1 }))
    track = withSoftSamples(track, step.samples.map((s) => s.sample)); // prettier-ignore
  const state = addSurface({ document: newDocument(clip), measured: {} }, soft, track);
  const held = state.document.trackers[0].mover;
  return { ...state, document: { ...state.document, held } };
}
