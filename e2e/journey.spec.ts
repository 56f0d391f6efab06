import { execFile } from 'node:child_process';
import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { expect } from '@playwright/test';
import { ffmpegPath, ffprobePath } from '@lurn/engine';
import { BenchDriver, truthOf } from './bench-page.js';
import { test } from './kept-page.js';
import { TestServer } from './server.js';

const run = promisify(execFile);
const truth = truthOf('station');

let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start({ demo: true });
});
test.afterAll(() => server.stop());

test('from a shaky clip to a steady file', async ({ page }) => {
  test.setTimeout(150_000);
  const faults: string[] = [];
  page.on('pageerror', (error) => faults.push(error.message));
  const bench = new BenchDriver(page, truth.clip);

  await page.goto(server.url);
  const card = page.getByRole('listitem', { name: 'station' });
  await expect(card).toContainText('1280 × 720');
  await expect(card).toContainText('30 fps');
  await expect(card).toContainText(/Shake \d+\.\d px/);
  await expect(card).toContainText('Still, not looked at');

  await bench.open(server.url, 'station');
  await bench.endOn(59);
  await bench.mark(truth, ['gable', 'door', 'window']);
  await expect(bench.course('Mark')).toContainText('3 spots');

  await bench.key('t');
  await expect(bench.course('Track')).toContainText('60 of 60 frames', { timeout: 90_000 });
  await bench.key('2');
  await expect(page.getByRole('button', { name: 'To the end' })).toBeVisible();
  await expect(page.getByText('Tracking is slower here')).toHaveCount(0);

  await bench.key('4');
  const exact = /Still, 0\.0\d\d left of 1\d\.\d\spx/;
  await expect(bench.course('Steady')).toContainText(exact);
  await bench.field('Rotation, %', 0);
  await expect(bench.course('Steady')).not.toContainText(exact);
  await bench.field('Rotation, %', 100);
  await expect(bench.course('Steady')).toContainText(exact);

  await bench.key('5');
  await expect(bench.course('Frame')).toContainText(/Fit zoom 10[5-9]\.\d %/);
  await page.getByRole('button', { name: 'None', exact: true }).click();
  await bench.field('By hand, %', 102);
  await expect(bench.course('Frame')).toContainText(/102\.0 %, edge shows on \d+ frames/);
  await bench.field('By hand, %', 100);
  await page.getByRole('button', { name: 'Fit', exact: true }).click();
  await expect(page.getByText('No edge shows on any frame')).toBeVisible();

  await bench.key('7');
  await page.getByText('Review', { exact: true }).click();
  await page.getByRole('button', { name: 'Render the steadied picture' }).click();
  await expect(page.getByRole('progressbar', { name: 'Rendering' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible({ timeout: 120_000 });
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect.poll(() => page.locator('video').evaluate((v: HTMLVideoElement) => v.videoWidth)).toBe(1280);
  await page.getByRole('button', { name: 'Close' }).click();

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Download' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('station steady.mp4');
  const file = join(tmpdir(), `lurn-journey-${process.pid}.mp4`);
  await download.saveAs(file);
  const { stdout } = await run(await ffprobePath(), [
    '-v',
    'error',
    '-count_packets',
    '-show_streams',
    '-of',
    'json',
    file,
  ]);
  const { streams } = JSON.parse(stdout) as { streams: Record<string, string | number>[] };
  expect(streams.find((s) => s.codec_type === 'video')).toMatchObject({
    codec_name: 'h264',
    width: 1280,
    height: 720,
    r_frame_rate: '30/1',
    nb_read_packets: '60',
    color_space: 'bt709',
    color_range: 'tv',
  });
  expect(streams.find((s) => s.codec_type === 'audio')).toMatchObject({ codec_name: 'aac' });
  expect(faults).toEqual([]);
});

test('everything is as it was after a reload, and can be undone before', async ({ page }) => {
  const bench = new BenchDriver(page, { width: 960, height: 540 });
  const gondola = truthOf('gondola');
  await bench.open(server.url, 'gondola');
  await bench.mark(gondola, ['number', 'left window']);
  await page.getByRole('button', { name: 'Select A', exact: true }).first().click();
  await page.getByLabel('Name of A').fill('cabin');
  await page.getByLabel('Name of A').press('Enter');
  await page.getByLabel('Reach across').first().fill('4*10');
  await page.getByLabel('Reach across').first().press('Enter');
  await bench.key('2');
  for (let i = 0; i < 3; i++) {
    await bench.key('g');
    await bench.shows(new RegExp(`frame ${i + 1}\\.`));
    await expect(page.getByRole('progressbar', { name: 'Tracking' })).toHaveCount(0);
  }
  await expect(bench.picture).toHaveAttribute('data-layout', 'both');
  await bench.key('c');
  await bench.saved();
  await bench.reload();
  await bench.shows(/frame 3\./);
  await expect(bench.course('Mark')).toContainText('2 spots');
  await expect(page.getByRole('button', { name: 'Wipe' })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('cell', { name: 'cabin' })).toBeVisible();
  await expect(page.getByRole('cell', { name: '3 %' })).toHaveCount(2);
  await bench.key('1');
  await page.getByRole('button', { name: 'Select cabin', exact: true }).first().click();
  await expect(page.getByLabel('Reach across').first()).toHaveValue('40');

  await bench.key('Delete');
  await expect(bench.course('Mark')).toContainText('1 spot');
  await bench.key('Control+z');
  await expect(bench.course('Mark')).toContainText('2 spots');
  await bench.key('Control+Shift+z');
  await expect(bench.course('Mark')).toContainText('1 spot');
  await bench.key('Control+z');
  await bench.saved();
});

test('a reload in the middle of a change loses nothing', async ({ page }) => {
  const bench = new BenchDriver(page, { width: 960, height: 540 });
  await bench.open(server.url, 'gondola');
  await bench.key('1');
  await page.getByRole('button', { name: 'Both' }).click();
  const before = await bench.spots();
  await bench.key('n');
  await bench.reload(); // at once: the save has not been sent yet
  await expect.poll(() => bench.spots()).toBe(before + 1);
  await bench.saved();
});

test('spots are dragged with a magnifier, nudged by keys, and each is one step of undo', async ({ page }) => {
  const bench = new BenchDriver(page, truth.clip);
  await bench.open(server.url, 'station');
  await bench.key('1');
  const before = await bench.spots();
  const across = page.getByLabel('Across, px').first();
  const [x, y] = await bench.place(700, 500);
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 12, y - 8, { steps: 6 });
  await expect(page.getByText('reach ±32, ±24 px')).toBeVisible();
  await page.mouse.up();
  await expect(page.getByText('reach ±32, ±24 px')).toHaveCount(0);
  const placed = Number(await across.inputValue());
  await bench.key('Alt+ArrowRight');
  await expect.poll(async () => Number(await across.inputValue())).toBeCloseTo(placed + 0.1, 2);
  await bench.key('Alt+Shift+ArrowLeft');
  await expect.poll(async () => Number(await across.inputValue())).toBeCloseTo(placed - 0.9, 2);
  await bench.key('Control+z');
  await bench.key('Control+z');
  await expect.poll(async () => Number(await across.inputValue())).toBeCloseTo(placed, 2);
  await bench.key('Control+z');
  await expect.poll(() => bench.spots()).toBe(before);
});

test('the view zooms about the pointer by wheel and keys, and to a spot by a double press', async ({
  page,
}) => {
  const bench = new BenchDriver(page, truth.clip);
  await bench.open(server.url, 'station');
  await bench.key('1');
  const zoom = async () => Number((await page.getByText(/^Source\s*\d+ %/).innerText()).match(/(\d+) %/)![1]);
  const fitted = await zoom();
  const before = await bench.spots();
  // What lies under the pointer stays there: a press before and one after zooming put a spot at the same place.
  const [x, y] = await bench.place(700, 300);
  await page.mouse.move(x, y);
  for (let i = 0; i < 4; i++) await bench.key('+');
  await page.mouse.wheel(0, -300);
  await expect.poll(zoom).toBeGreaterThan(2 * fitted);
  await page.mouse.down();
  await page.mouse.up();
  const across = page.getByLabel('Across, px', { exact: true }).first();
  await expect.poll(async () => Math.abs(Number(await across.inputValue()) - 700)).toBeLessThan(1);
  await bench.key('f');
  await expect.poll(zoom).toBe(fitted);
  await page.mouse.dblclick(...(await bench.place(700, 300)));
  await expect.poll(zoom).toBeGreaterThanOrEqual(200);
  await bench.key('f');
  // A double press beside it makes one spot, not two.
  await page.mouse.dblclick(...(await bench.place(500, 420)));
  expect(await bench.spots()).toBe(before + 2);
  await bench.key('Control+z');
  await bench.key('Control+z');
  await bench.key('f');
});

test('the playhead plays at the rate of the clip, steps, jumps, and in and out points hold it', async ({
  page,
}) => {
  const bench = new BenchDriver(page, truth.clip);
  await bench.open(server.url, 'station');
  await bench.key('Home');
  await bench.shows(/frame 0\./);
  await bench.key('ArrowRight');
  await bench.key('Shift+ArrowRight');
  await bench.shows(/frame 11\./);
  await bench.key('i');
  await bench.key('Shift+ArrowRight');
  await bench.key('o');
  await bench.key('End');
  await bench.shows(/frame 21\./);
  const frameOf = async () =>
    Number((await page.getByLabel('Frame', { exact: true }).innerText()).trim().split(' ')[0]);
  await bench.key('Space');
  const seen = new Set<number>();
  for (let i = 0; i < 25; i++) {
    seen.add(await frameOf());
    await page.waitForTimeout(40);
  }
  await bench.key('Space');
  expect(Math.min(...seen)).toBeGreaterThanOrEqual(11);
  expect(Math.max(...seen)).toBeLessThanOrEqual(21);
  expect(seen.size).toBeGreaterThan(4);
  await bench.key('Control+z');
  await bench.key('Control+z');
  await bench.saved();
});

test('tracking can be stopped, and what was measured is kept', async ({ page }) => {
  const bench = new BenchDriver(page, truth.clip);
  await bench.open(server.url, 'station');
  await bench.key('Home');
  await bench.key('1');
  await bench.mark(truth, ['clock', 'mast']);
  await bench.key('2');
  await bench.key('t');
  await expect
    .poll(async () => (await bench.course('Track').innerText()).match(/(\d+) of/)?.[1], { intervals: [50] })
    .not.toBe('0');
  await bench.key('x');
  await expect(page.getByRole('progressbar', { name: 'Tracking' })).toHaveCount(0);
  await expect(bench.course('Track')).toContainText(/[1-9]\d* of \d+ frames/);
});

test('a clip of one’s own: uploaded, renamed, deleted and brought back', async ({ page }) => {
  await page.goto(server.url);
  const path = join(tmpdir(), `Berg "Nord" ${process.pid}.mp4`);
  await run(await ffmpegPath(), [
    '-y',
    '-v',
    'error',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=size=320x180:rate=25:duration=1',
    '-pix_fmt',
    'yuv420p',
    path,
  ]).catch(async () => {
    const { ffmpegPath } = await import('@lurn/engine');
    return run(await ffmpegPath(), [
      '-y',
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      'testsrc2=size=320x180:rate=25:duration=1',
      '-pix_fmt',
      'yuv420p',
      path,
    ]);
  });
  await page.getByLabel('Video files').setInputFiles(path);
  const card = page.getByRole('listitem', { name: /Berg "Nord"/ });
  await expect(card).toContainText('320 × 180', { timeout: 60_000 });
  await page.getByLabel('Video files').setInputFiles(path);
  await expect(page.getByText(/This file is here already/)).toBeVisible();
  await card.getByLabel('Name').fill('north ridge');
  await card.getByLabel('Name').press('Enter');
  const renamed = page.getByRole('listitem', { name: 'north ridge' });
  await expect(renamed).toBeVisible();
  await renamed.getByRole('button', { name: 'Delete north ridge' }).click();
  await expect(renamed).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(renamed).toBeVisible();
  await writeFile(path, 'this is not a video at all');
  await page.getByLabel('Video files').setInputFiles(path);
  await expect(page.getByText(/is a text file or a playlist, not a video/)).toBeVisible();
});
