import { copyFile, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';
import { chromium, expect, type Page } from '@playwright/test';
import { BenchDriver, type Truth } from '../e2e/bench-page.js';
import { TestServer } from '../e2e/server.js';
import { trackedShot } from '../e2e/tracked.js';
import { median } from './median.js';
import { seenWhilePlaying } from './playing.js';
import { speedClip, type SpeedClip } from './speed-clips.js';
import type { Show } from './tracking.js';

/** Large clips on the Bench: how they play with the correction on, and how long four spots take. */

const FPS = 30;
const PLACES = [
  [0.3, 0.3],
  [0.7, 0.3],
  [0.3, 0.7],
  [0.7, 0.7],
];

function truthFor(clip: SpeedClip): Truth {
  const { width, height, frames } = clip;
  const features = PLACES.map(([u, v], i) => ({
    ...{ name: `stone ${i}`, on: 'wall' },
    positions: Array.from({ length: frames }, (_, frame): [number, number] => {
      const { x, y } = clip.truth({ x: u * width, y: v * height }, frame);
      return [x, y];
    }),
  }));
  return { clip: { width, height, frames, fps: FPS }, motion: {}, features };
}

/**
 * Milliseconds from a slider's key to the worker having drawn the picture of the plan that follows from it, the median of
 * a few.
 */
async function sliderLag(page: Page): Promise<number> {
  const slider = page.getByRole('slider', { name: /, slider$/ }).first();
  const lags: number[] = [];
  for (let i = 0; i < 7; i++) {
    await page.evaluate('pressedAt = NaN; answers.length = 0');
    await slider.press(i % 2 ? 'ArrowLeft' : 'ArrowRight');
    await page.waitForTimeout(1500);
    lags.push(await page.evaluate<number>(LAG));
  }
  return median(lags);
}

/** Notes when workers answer, and when a key goes down. As text: it runs in the page, before anything else. */
const WATCH_WORKERS = `
  globalThis.answers = [];
  globalThis.pressedAt = NaN;
  addEventListener('keydown', () => (pressedAt = performance.now()), { capture: true });
  globalThis.Worker = class extends Worker {
    constructor(url, options) {
      super(url, options);
      const of = String(url).split('/').pop();
      this.addEventListener('message', () => answers.push({ of, at: performance.now() }));
    }
  };`;
/** From the key to the first picture after the first plan after it; Infinity where none came. */
const LAG = `{
  const after = (name, time) => answers.find((a) => a.of.startsWith(name) && a.at > time)?.at ?? Infinity;
  after('picture', after('steady', pressedAt)) - pressedAt;
}`;

/** Megabytes that the largest of Chromium's page processes and the server have in memory. */
function memory(server: number): { page: number; server: number } {
  const table = execFileSync('ps', ['-eo', 'pid,rss,args'], { encoding: 'utf8' }).split('\n');
  const rows = table.map((line) => line.trim().split(/\s+/, 20));
  const mb = (kb: number) => Math.round(kb / 1024);
  const pages = rows.filter((r) => r.includes('--type=renderer')).map((r) => Number(r[1]));
  return { page: mb(Math.max(...pages)), server: mb(Number(rows.find((r) => Number(r[0]) === server)![1])) };
}

export async function onThePage(show: Show, folder: string): Promise<void> {
  const clips = [await speedClip(1920, 1080, 300), await speedClip(3840, 2160, 120)];
  const demo = join(folder, 'clips');
  await mkdir(demo);
  for (const { file, height } of clips) await copyFile(file, join(demo, `wall${height}.mp4`));
  const server = await TestServer.start({ env: { LURN_DEMO: demo } });
  await server.ready();
  const browser = await chromium.launch({
    executablePath: process.env.LURN_CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-background-networking', '--enable-unsafe-swiftshader'],
  });
  try {
    for (const clip of clips) {
      const truth = truthFor(clip);
      const name = `wall${clip.height}`;
      const shot = trackedShot(
        truth,
        truth.features.map((f) => f.name),
      );
      const goal = { ...shot.document.goal, goal: 'calm' as const };
      await server.save(name, { ...shot, document: { ...shot.document, goal } });
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await page.addInitScript(WATCH_WORKERS);
      const bench = new BenchDriver(page, truth.clip);
      await page.goto(server.url);
      const card = page.getByTitle(`Open ${name} on the Bench`);
      await card.waitFor();
      await page.waitForTimeout(1000);
      const pressed = performance.now();
      await card.click();
      await page.getByRole('application', { name: /frame \d+/ }).waitFor();
      const first = (performance.now() - pressed) / 1000;
      show(`${clip.height}p, first picture after pressing a ready clip`, `${first.toFixed(2)} s`, '<= 0.7 s');
      await bench.key('4');
      await page.getByRole('button', { name: 'Both', exact: true }).click();
      await page.waitForTimeout(2500);
      show(
        `${clip.height}p, a slider's effect on the shown frame`,
        `${(await sliderLag(page)).toFixed(0)} ms`,
        '<= 100 ms',
      );
      const seen = (await seenWhilePlaying(page)) / FPS;
      show(`${clip.height}p, both views: pictures seen / pictures of the clip`, seen.toFixed(2), '>= 0.95');
      if (clip.height === 1080) {
        await bench.key('Home');
        const start = performance.now();
        await bench.key('t');
        const tracking = page.getByRole('progressbar', { name: 'Tracking' });
        await bench.key('2');
        await expect(tracking).toHaveCount(0, { timeout: 300_000 });
        const took = (performance.now() - start) / 1000;
        show(
          `${clip.height}p, four spots on the Bench / clip length`,
          (took / (clip.frames / FPS)).toFixed(2),
          '-',
        );
      }
      const { page: ofPage, server: ofServer } = memory(server.pid);
      const wanted = clip.height === 2160 ? '<= 1200, 700' : '-';
      show(
        `${clip.height}p, memory of the page's process, the server's`,
        `${ofPage}, ${ofServer} MB`,
        wanted,
      );
      await page.close();
    }
  } finally {
    await browser.close();
    await server.stop();
  }
}
