import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { chromium } from '@playwright/test';
import { ffmpegPath } from '@lurn/engine';
import { TestServer } from '../e2e/server.js';
import type { Show } from './tracking.js';

const SHOTS = 40;
/** Pictures of the display that are missed by so much count as late, in milliseconds. */
const LATE = 25;

/** Counts display frames, and those that came late. As text: it runs in the page. */
const WATCH = `(() => {
  const watch = (globalThis.watch = { frames: 0, late: 0, longest: 0, since: performance.now(), last: performance.now() });
  const look = (now) => {
    const took = now - watch.last;
    watch.last = now;
    watch.frames++;
    if (took > ${LATE}) watch.late++;
    watch.longest = Math.max(watch.longest, took);
    requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
})()`;

/** Forty shots in the queue, the drawer open: how smooth the page stays, and what memory it takes. */
export async function queue(show: Show): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-queue-'));
  const server = await TestServer.start();
  const ffmpeg = await ffmpegPath();
  for (let k = 0; k < SHOTS; k++) {
    const file = join(folder, `${k}.mp4`);
    const source = `testsrc2=size=640x360:rate=25:duration=4,rotate=0.01*sin(${2 + k / 9}*t)`;
    await promisify(execFile)(ffmpeg, ['-y', '-v', 'error', '-f', 'lavfi', '-i', source, '-c:v', 'libx264', '-preset', 'veryfast', '-pix_fmt', 'yuv420p', file]); // prettier-ignore
    await server.upload(`shot ${k}.mp4`, await readFile(file));
  }
  await server.ready();
  const browser = await chromium.launch({
    executablePath: process.env.LURN_CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-background-networking', '--enable-unsafe-swiftshader'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const cdp = await page.context().newCDPSession(page);
  await cdp.send('Performance.enable');
  const heap = async () => {
    await cdp.send('HeapProfiler.collectGarbage');
    const { metrics } = await cdp.send('Performance.getMetrics');
    return metrics.find((m) => m.name === 'JSHeapUsedSize')!.value / 1e6;
  };
  await page.goto(server.url);
  await page.getByRole('button', { name: 'Select all' }).click();
  await page.getByRole('group', { name: 'Steady these' }).getByRole('button', { name: 'Still' }).click();
  await page.getByText(`${SHOTS} renders queued`).waitFor();
  await page.getByRole('button', { name: 'Queue' }).click();
  await page.waitForTimeout(3000);
  const before = await heap();
  await page.evaluate(WATCH);
  const pending = async () =>
    (await server.clips()).flatMap((c) => c.renders).filter((r) => r.status === 'waiting' || r.status === 'running').length; // prettier-ignore
  let left = SHOTS;
  for (let k = 0; k < 600 && left > 0; k++) {
    await page.waitForTimeout(1000);
    left = await pending();
  }
  const seen = await page.evaluate<{ frames: number; late: number; longest: number; seconds: number }>(
    '({ ...watch, seconds: (performance.now() - watch.since) / 1000 })',
  );
  const after = await heap();
  show(
    `queue of ${SHOTS} shots: pictures of the page a second, late ones, longest`,
    `${(seen.frames / seen.seconds).toFixed(1)}, ${((100 * seen.late) / seen.frames).toFixed(1)} %, ${seen.longest.toFixed(0)} ms`,
    '60',
  );
  show('... memory of the page before and after', `${before.toFixed(1)}, ${after.toFixed(1)} MB`, 'flat');
  if (left > 0) show('... renders that were not done in time', String(left), '0');
  await browser.close();
  await server.stop();
  await rm(folder, { recursive: true });
}
