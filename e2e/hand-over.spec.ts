import { readFile } from 'node:fs/promises';
import { expect, type Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import { BenchDriver, truthOf } from './bench-page.js';
import { test } from './kept-page.js';
import { TestServer } from './server.js';
import { trackedShot } from './tracked.js';

const ridge = truthOf('ridge');
let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start({ demo: true });
  await server.save('ridge', trackedShot(ridge, ['hut', 'cairn', 'board', 'pylon head']));
});
test.afterAll(() => server.stop());

async function saved(page: Page, button: string): Promise<{ name: string; bytes: Buffer }> {
  const [download] = await Promise.all([
    page.waitForEvent('download', { timeout: 60_000 }),
    page.getByRole('button', { name: button }).click(),
  ]);
  return { name: download.suggestedFilename(), bytes: await readFile(await download.path()) };
}

test('motion and spots leave as data, in the coordinates that a target wants', async ({ page }) => {
  const bench = new BenchDriver(page, ridge.clip);
  await bench.open(server.url, 'ridge');
  await expect(bench.course('Steady')).toContainText('left');
  await bench.key('7');
  await page.getByRole('heading', { name: 'Data', exact: true }).scrollIntoViewIfNeeded();
  // Spots, counted from the bottom left, the first frame being 1.
  await page.getByRole('button', { name: 'Spots', exact: true }).click();
  await page.getByLabel('Counted from').selectOption('bottom-left');
  await page.getByLabel('y grows').selectOption('up');
  await page.getByLabel('First frame is').fill('1');
  await page.getByLabel('First frame is').press('Enter');
  const [x, y] = ridge.features.find((f) => f.name === 'hut')!.positions[0];
  await expect(page.getByLabel('First lines')).toContainText('spot,frame,time_s,x_px,y_px');
  const { name, bytes } = await saved(page, 'Save Table (CSV)');
  expect(name).toMatch(/^ridge spots\.csv$/);
  const first = bytes.toString().split('\n')[1].split(',');
  expect(first.slice(0, 2)).toEqual(['hut', '1']);
  expect(Math.abs(Number(first[3]) - x)).toBeLessThan(1);
  expect(Math.abs(Number(first[4]) - (ridge.clip.height - y))).toBeLessThan(1);
  await page.getByLabel('Name of this target').fill('the compositor');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  // Kept over a reload, and taken by its name.
  await bench.reload();
  await page.getByRole('button', { name: 'Spots', exact: true }).click();
  await expect(page.getByLabel('Counted from')).toHaveValue('top-left');
  await page.getByLabel('Name of this target').fill('the compositor');
  await expect(page.getByLabel('Counted from')).toHaveValue('bottom-left');
  // The motion as JSON is MOTION.json.
  await page.getByRole('button', { name: 'Motion', exact: true }).click();
  await page.getByLabel('Written as').selectOption('json');
  await page.getByLabel('Counted from').selectOption('top-left');
  await page.getByLabel('y grows').selectOption('down');
  await page.getByLabel('First frame is').fill('0');
  await page.getByLabel('First frame is').press('Enter');
  const motion = JSON.parse((await saved(page, 'Save JSON')).bytes.toString()) as {
    clip: { frames: number };
    frames: { motion: number[] }[];
  };
  expect(motion.clip.frames).toBe(ridge.clip.frames);
  const own = [1, 0, 0, 0, 1, 0, 0, 0, 1];
  motion.frames[0].motion.forEach((v, k) => expect(v).toBeCloseTo(own[k], 9));
  // ST maps are many: they take a while, may be stopped, and come as a zip.
  await page.getByLabel('Written as').selectOption('st-png');
  await page.getByRole('button', { name: /^Save ST maps/ }).click();
  await expect(page.getByRole('progressbar', { name: 'Writing data' })).toBeVisible();
  await page.getByTestId('station').getByRole('button', { name: 'Stop' }).click();
  await expect(page.getByRole('button', { name: /^Save ST maps/ })).toBeVisible();
});

test('two deliveries are kept with the shot and rendered with one press', async ({ page }) => {
  test.setTimeout(180_000);
  const bench = new BenchDriver(page, ridge.clip);
  await bench.open(server.url, 'ridge');
  await expect(bench.course('Steady')).toContainText('left');
  await bench.key('Home');
  for (let k = 0; k < 5; k++) await page.keyboard.press('ArrowRight');
  await bench.key('o');
  await bench.key('7');
  await page.getByLabel('Add a delivery').selectOption('Lossless');
  const list = page.getByRole('list', { name: 'Deliveries' });
  await expect(list.getByRole('button', { name: /^Lossless/ })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByLabel('Format')).toHaveValue('ffv1-mkv');
  await page.getByLabel('Format').selectOption('png-zip');
  await page.getByLabel('Before and after').selectOption('beside');
  await expect(page.getByText('2560 × 720 px')).toBeVisible();
  await page.getByLabel('Before and after').selectOption('');
  await page.getByLabel('Name of the delivery').fill('pictures: all');
  await page.getByLabel('Name of the delivery').press('Enter');
  await bench.key('Control+z');
  await expect(list.getByRole('button', { name: /^Lossless/ })).toBeVisible();
  await bench.key('Control+y');
  await bench.saved();
  await bench.reload();
  await expect(list.getByRole('button', { name: /^pictures: all/ })).toBeVisible();
  await page.getByRole('button', { name: 'Render all 2 deliveries' }).click();
  await expect(page.getByText('Steadied, MP4, H.264')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText('pictures: all, PNG pictures, zip')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('link', { name: 'Download' })).toHaveCount(2, { timeout: 60_000 });
  // A browser plays the one alone.
  await expect(page.getByTestId('station').getByRole('button', { name: 'Play', exact: true })).toHaveCount(1);
  const newest = page.getByRole('listitem').filter({ hasText: 'PNG pictures, zip' });
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    newest.getByRole('link', { name: 'Download' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('ridge pictures- all.zip');
  const files = unzipSync(await readFile(await download.path()));
  expect(Object.keys(files)).toEqual([0, 1, 2, 3, 4, 5].map((f) => `00000${f}.png`));
});

test('ST maps of a few frames come as a zip', async ({ page }) => {
  const bench = new BenchDriver(page, ridge.clip);
  await bench.open(server.url, 'ridge');
  await expect(bench.course('Steady')).toContainText('left');
  await bench.key('Home');
  await page.keyboard.press('ArrowRight');
  await bench.key('o');
  await bench.key('7');
  await page.getByLabel('Written as').selectOption('st-png');
  const { bytes } = await saved(page, 'Save ST maps, PNG of 16 bits');
  expect(Object.keys(unzipSync(bytes))).toEqual([
    ...['steady/000000.png', 'back/000000.png', 'steady/000001.png', 'back/000001.png'],
  ]);
});
