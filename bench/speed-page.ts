import { copyFile, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { chromium, expect } from '@playwright/test';
import { BenchDriver, type Truth } from '../e2e/bench-page.js';
import { TestServer } from '../e2e/server.js';
import { trackedShot } from '../e2e/tracked.js';
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

export async function onThePage(show: Show, folder: string): Promise<void> {
  const clips = [await speedClip(1920, 1080, 300), await speedClip(3840, 2160, 120)];
  const demo = join(folder, 'clips');
  await mkdir(demo);
  for (const { file, height } of clips) await copyFile(file, join(demo, `wall${height}.mp4`));
  const server = await TestServer.start({ demo });
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
      const bench = new BenchDriver(page, truth.clip);
      await bench.open(server.url, name);
      await bench.key('4');
      await page.getByRole('button', { name: 'Both', exact: true }).click();
      await page.waitForTimeout(2500);
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
      await page.close();
    }
  } finally {
    await browser.close();
    await server.stop();
  }
}
