import { execFile } from 'node:child_process';
import { existsSync, mkdirSync, renameSync } from 'node:fs';
import { copyFile, mkdir } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { chromium, type Page } from '@playwright/test';
import { packColumns } from '@lurn/core/formats';
import { EMPTY_TRACK, withSamples } from '@lurn/core/track';
import { ffmpegPath } from '@lurn/engine';
import { FIRST_MOVER, NEW_SPOT, newDocument, SHOT_BODY_TYPE, shotBodyHead } from '@lurn/model';
import { BenchDriver } from '../e2e/bench-page.js';
import { TestServer } from '../e2e/server.js';
import { median } from './median.js';
import type { Show } from './tracking.js';

/** An hour of a small clip with 50 tracked spots: opening it, its strips, saving, solving. */

const [FRAMES, FPS, SPOTS] = [108_000, 30, 50];
const [WIDTH, HEIGHT] = [320, 180];

async function hourClip(): Promise<string> {
  const folder = join(tmpdir(), 'lurn-speed');
  mkdirSync(folder, { recursive: true });
  const file = join(folder, `hour-${WIDTH}x${HEIGHT}.mp4`);
  if (existsSync(file)) return file;
  const source = `testsrc=size=${WIDTH}x${HEIGHT}:rate=${FPS}:duration=${FRAMES / FPS}`;
  const coded = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-preset', 'ultrafast', '-g', '60'];
  const args = ['-y', '-v', 'error', '-f', 'lavfi', '-i', source, ...coded, `${file}.part.mp4`];
  await promisify(execFile)(await ffmpegPath(), args);
  renameSync(`${file}.part.mp4`, file);
  return file;
}

/** A camera that walks and shakes, and spots all over its picture. */
function trackOfSpot(spot: number) {
  const samples = Array.from({ length: FRAMES }, (_, frame) => ({
    ...{ frame, state: 'tracked' as const, confidence: 0.95 - 0.1 * Math.sin(frame / 500) ** 2 },
    x: 20 + ((6 * spot) % 280) + 4 * Math.sin(frame / 7) + 8 * Math.sin(frame / 310),
    y: 15 + ((11 * spot) % 150) + 3 * Math.cos(frame / 5) + 0.05 * Math.sin(spot * frame),
  }));
  return withSamples(EMPTY_TRACK, samples);
}

async function save(server: TestServer, id: string): Promise<void> {
  const trackers = Array.from({ length: SPOTS }, (_, i) => ({
    ...{ ...NEW_SPOT, id: `s${i}`, name: `s${i}`, mover: FIRST_MOVER.id, colour: i % 8 },
    ...{ patch: [8, 8] as const, reach: [12, 12] as const, minConfidence: 0.15 },
  }));
  const document = { ...newDocument({ width: WIDTH, height: HEIGHT, frames: FRAMES }), trackers };
  const columns = new Map(trackers.map((t, i) => [t.id, packColumns(trackOfSpot(i))]));
  const answer = await fetch(`${server.url}/api/clips/${id}/shot`, {
    ...{ method: 'PUT', headers: { 'Content-Type': SHOT_BODY_TYPE } },
    body: new Blob([shotBodyHead({ revision: 0, document, columns }), ...columns.values()]),
  });
  if (!answer.ok) throw new Error(await answer.text());
}

/** The longest of the page's frames while something is done to it, in milliseconds, and the usual one. */
async function framesWhile(page: Page, work: () => Promise<void>): Promise<{ most: number; usual: number }> {
  // As text: it runs in the page.
  await page.evaluate(`{
    const times = (globalThis.frameTimes = []);
    const next = (t) => { times.push(t); requestAnimationFrame(next); };
    requestAnimationFrame(next);
  }`);
  await work();
  const times = await page.evaluate<number[]>('frameTimes');
  const gaps = times.slice(1).map((t, i) => t - times[i]);
  return { most: Math.max(...gaps), usual: median(gaps) };
}

export async function anHour(show: Show, folder: string): Promise<void> {
  const demo = join(folder, 'hour');
  await mkdir(demo);
  await copyFile(await hourClip(), join(demo, 'hour.mp4'));
  const server = await TestServer.start({ env: { LURN_DEMO: demo } });
  const browser = await chromium.launch({
    executablePath: process.env.LURN_CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-background-networking', '--enable-unsafe-swiftshader'],
  });
  try {
    const { id } = await server.clip('hour');
    await save(server, id);
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const bench = new BenchDriver(page, { width: WIDTH, height: HEIGHT });
    await page.goto(server.url);
    const card = page.getByTitle('Open hour on the Bench');
    await card.waitFor();
    const opened = performance.now();
    await card.click();
    await page.getByRole('application', { name: /frame \d+/ }).waitFor({ timeout: 60_000 });
    show('an hour, 50 spots: opened, its picture seen', `${seconds(opened)} s`, '<= 3 s');
    // The first plan of it, from nothing to the picture steadied.
    await page
      .getByText(/left of/)
      .first()
      .waitFor({ timeout: 120_000 });
    show('... solved, planned and told', `${seconds(opened)} s`, '<= 15 s');
    await page.waitForTimeout(2000);
    const strips = page.getByRole('group', { name: 'Strips' });
    const box = (await strips.boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    const wheel = (dx: number, dy: number, held?: string) => async () => {
      if (held) await page.keyboard.down(held);
      for (let i = 0; i < 24; i++) {
        await page.mouse.wheel(i < 12 ? dx : -dx, i < 12 ? dy : -dy);
        await page.waitForTimeout(30);
      }
      if (held) await page.keyboard.up(held);
    };
    for (const [name, work] of [
      ['time axis zoomed', wheel(0, -120, 'Control')],
      ['rows scrolled', wheel(0, 120)],
    ] as const) {
      const { most, usual } = await framesWhile(page, work);
      show(`... ${name}: longest frame (usual ${usual.toFixed(0)})`, `${most.toFixed(0)} ms`, '<= 50 ms');
    }
    const saved: number[] = [];
    for (let i = 0; i < 3; i++) {
      const sent = page.waitForResponse((r) => r.request().method() === 'PUT');
      await bench.key('Home');
      await bench.press(60 + 20 * i, 60);
      const begun = performance.now();
      await sent;
      saved.push((performance.now() - begun) / 1000);
      await bench.saved();
    }
    show(
      '... a change saved, 0.35 s of them waited on purpose',
      `${median(saved).toFixed(2)} s`,
      '<= 0.65 s',
    );
  } finally {
    await browser.close();
    await server.stop();
  }
}

const seconds = (since: number) => ((performance.now() - since) / 1000).toFixed(1);
