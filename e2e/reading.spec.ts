import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { expect, type Page } from '@playwright/test';
import { ffmpegPath } from '@lurn/engine';
import type { ClipSummary } from '@lurn/model';
import { test } from './kept-page.js';
import { TestServer } from './server.js';

/** Clips that are worked on while they are read, and clips too large to be played as they are. */

let server: TestServer;
let folder: string;
test.beforeAll(async () => {
  server = await TestServer.start();
  folder = await mkdtemp(join(tmpdir(), 'lurn-reading-'));
});
test.afterAll(async () => {
  await server.stop();
  await rm(folder, { recursive: true, force: true });
});

/** Makes a clip with ffmpeg. @returns its bytes */
async function made(name: string, ...args: string[]): Promise<Buffer> {
  const path = join(folder, name);
  await promisify(execFile)(await ffmpegPath(), ['-y', '-v', 'error', ...args, path]);
  return readFile(path);
}

const broughtIn = async (name: string, bytes: Buffer) => (await server.upload(name, bytes)).body.id as string;
const bringIn = async (name: string, ...args: string[]) => broughtIn(name, await made(name, ...args));

const clip = async (id: string) =>
  (await (await fetch(`${server.url}/api/clips/${id}`)).json()) as ClipSummary;
const seen = (page: Page, frame: number) =>
  expect(page.getByRole('application', { name: new RegExp(`^Picture, frame ${frame}\\.`) })).toBeVisible({
    timeout: 30_000,
  });

test('a clip that has to be copied is opened at once; what is looked at comes first, and work on it stays', async ({
  page,
}) => {
  const source = ['-f', 'lavfi', '-i', 'testsrc2=size=1280x720:rate=25:duration=8'];
  const id = await bringIn('lower line.avi', ...source, '-c:v', 'mjpeg', '-q:v', '6');
  await expect.poll(async () => (await clip(id)).info?.frames).toBe(200);
  /** On a very quick machine it may be done before it has been looked at. */
  const copying = async () => (await clip(id)).status !== 'ready';
  await page.goto(`${server.url}/`);
  await page.getByRole('link', { name: /lower line/ }).click();
  await seen(page, 0);
  if (await copying()) {
    await expect(page.getByRole('status', { name: 'Reading' })).toBeVisible();
    await expect(page.getByRole('img', { name: /Pictures along time/ })).toBeVisible();
  }
  await page.keyboard.press('End');
  await seen(page, 199);
  if (await copying()) expect((await clip(id)).there).toBeLessThan(200);
  const picture = page.getByRole('application');
  const box = (await picture.boundingBox())!;
  await picture.click({ position: { x: box.width / 2, y: box.height / 2 } });
  await expect(page.getByText('1 spot', { exact: true })).toBeVisible();
  await expect.poll(async () => (await clip(id)).status, { timeout: 90_000 }).toBe('ready');
  // The Bench goes on where it was.
  await expect(page.getByRole('status', { name: 'Reading' })).toHaveCount(0);
  await expect(page.getByText('1 spot', { exact: true })).toBeVisible();
  await expect(page.getByRole('img', { name: 'Pictures along time', exact: true })).toBeVisible();
  await page.keyboard.press('Home');
  await seen(page, 0);
  await page.keyboard.press('End');
  await seen(page, 199);
});

test('a large clip plays from a reduced copy, and is seen in full at rest and magnified', async ({
  page,
}) => {
  const source = ['-f', 'lavfi', '-i', 'testsrc2=size=2560x1440:rate=30:duration=1.6'];
  const code = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p'];
  const id = await bringIn('whole valley.mp4', ...source, ...code);
  await expect.poll(async () => (await clip(id)).status, { timeout: 60_000 }).toBe('ready');
  expect((await clip(id)).made!.reduced).toMatchObject({ height: 960 });
  await page.goto(`${server.url}/shots/${id}`);
  await seen(page, 0);
  const reduced = page.getByText('reduced to 960 lines');
  await expect(reduced).toHaveCount(0);
  await page.keyboard.press(' ');
  await expect(reduced.first()).toBeVisible();
  await page.keyboard.press(' ');
  await expect(reduced).toHaveCount(0);
  // Where every pixel of the source is seen, playing is no reason to show fewer.
  const box = (await page.getByRole('application').boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  for (let i = 0; i < 12; i++) await page.mouse.wheel(0, -240);
  const shown = async () =>
    Number(/frame (\d+)/.exec((await page.getByRole('application').getAttribute('aria-label'))!)![1]);
  const from = await shown();
  await page.keyboard.press(' ');
  await expect.poll(async () => Math.abs((await shown()) - from)).toBeGreaterThan(5);
  await expect(reduced).toHaveCount(0);
});

test('a clip that waits behind others is opened at once, and is the next to be read', async ({ page }) => {
  const code = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p'];
  const source = (size: string, seconds: number) => [
    '-f',
    'lavfi',
    '-i',
    `testsrc2=size=${size}:rate=25:duration=${seconds}`,
    ...code,
  ];
  const before = await Promise.all([3, 4, 5].map((n) => made(`mast ${n}.mp4`, ...source('1280x720', n))));
  const late = await made('late gondola.mp4', ...source('640x360', 2));
  let last = '';
  for (const [n, bytes] of before.entries()) last = await broughtIn(`mast ${n}.mp4`, bytes);
  const id = await broughtIn('late gondola.mp4', late);
  await page.goto(`${server.url}/`);
  await page.getByRole('link', { name: /late gondola/ }).click();
  await seen(page, 0);
  const picture = page.getByRole('application');
  const box = (await picture.boundingBox())!;
  await picture.click({ position: { x: box.width / 2, y: box.height / 2 } });
  await expect(page.getByText('1 spot', { exact: true })).toBeVisible();
  await expect.poll(async () => (await clip(id)).status, { timeout: 90_000 }).toBe('ready');
  // What was brought in before it, but not begun when it was opened, is read after it.
  expect((await clip(last)).status).toBe('reading');
  await expect(page.getByText('1 spot', { exact: true })).toBeVisible();
});
