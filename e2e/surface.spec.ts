import { readFile } from 'node:fs/promises';
import { expect } from '@playwright/test';
import type { MeasuredJson } from '@lurn/core/formats';
import type { Surface } from '@lurn/model';
import { BenchDriver, truthOf } from './bench-page.js';
import { test } from './kept-page.js';
import { TestServer } from './server.js';

/** A flat surface on the Bench: drawn, tracked, checked, held, handed over. */

let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start({ demo: true });
});
test.afterAll(() => server.stop());

const sign = truthOf('sign');
const corners = (frame: number) => sign.features.map((f) => f.positions[frame]);

test('a sign is drawn round loosely, its quad placed, tracked, held, and its corners handed over', async ({
  page,
}) => {
  test.setTimeout(120_000);
  const bench = new BenchDriver(page, sign.clip);
  await bench.open(server.url, 'sign');
  await bench.endOn(39);
  await bench.key('8');
  await expect(page.getByText('Press corner by corner round a flat surface')).toBeVisible();
  for (const [k, [x, y]] of corners(0).entries())
    await bench.press(x + (k % 3 ? -4 : 4), y + (k < 2 ? 5 : -5));
  await bench.picture.press('Enter');
  await expect(bench.course('Mark')).toContainText('1 surface');
  await expect(page.getByTestId('grid')).toBeVisible();
  // The quad is dragged to where the board's corners are, each with a magnifier.
  for (const [k, [x, y]] of corners(0).entries()) {
    const [fx, fy] = await bench.place(x + (k % 3 ? -4 : 4), y + (k < 2 ? 5 : -5));
    const [tx, ty] = await bench.place(x, y);
    await page.mouse.move(fx, fy);
    await page.mouse.down();
    await page.mouse.move(tx, ty, { steps: 4 });
    await page.mouse.up();
  }
  await bench.key('t');
  await expect(bench.course('Track')).toContainText('40 of 40 frames', { timeout: 90_000 });
  await expect(page.getByRole('checkbox', { name: 'Hold it' })).toBeChecked();
  await expect(bench.course('Steady')).toContainText('Still, Surface 1 held');
  // How each part fits, and the surface laid flat.
  await bench.key('0');
  await expect(page.getByTestId('misfits').locator('path').first()).toBeVisible();
  await page.getByText('Laid flat', { exact: true }).click();
  await expect(page.getByRole('img', { name: /^Difference/ })).toBeVisible();
  await bench.saved();
  await bench.reload();
  await expect(bench.course('Mark')).toContainText('1 surface');
  await bench.key('7');
  await page.getByRole('heading', { name: 'Corner pin of Surface 1' }).scrollIntoViewIfNeeded();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save as CSV' }).click(),
  ]);
  const rows = (await readFile(await download.path(), 'utf8')).trim().split('\n').slice(1);
  expect(rows).toHaveLength(40);
  // The hand that placed the corners was about half a pixel off: what it was off by stays the same.
  const off = rows.map((row) => {
    const [, frame, , ...values] = row.split(',');
    return corners(Number(frame)).map(([x, y], k) => [
      Number(values[2 * k]) - x,
      Number(values[2 * k + 1]) - y,
    ]);
  });
  for (const frame of [15, 30, 39])
    off[frame].forEach(([dx, dy], k) => {
      expect(Math.abs(dx - off[0][k][0])).toBeLessThan(0.35);
      expect(Math.abs(dy - off[0][k][1])).toBeLessThan(0.35);
    });
  await bench.key('7');
  await page.getByRole('button', { name: 'Render the steadied picture' }).click();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible({ timeout: 90_000 });
});

test('a rectangle with a part left out is put right on a frame, tracked between pins, and locked', async ({
  page,
}) => {
  test.setTimeout(120_000);
  const station = truthOf('station');
  const bench = new BenchDriver(page, station.clip);
  await bench.open(server.url, 'station');
  await bench.endOn(45);
  const drag = async (from: readonly [number, number], to: readonly [number, number]) => {
    const [fx, fy] = await bench.place(...from);
    const [tx, ty] = await bench.place(...to);
    await page.mouse.move(fx, fy);
    await page.mouse.down();
    await page.mouse.move(tx, ty, { steps: 4 });
    await page.mouse.up();
  };
  const surface = async () => (await server.shot('station')).document.trackers[0] as Surface;
  await page.getByRole('button', { name: 'Rectangle …' }).click();
  await drag([420, 250], [820, 470]);
  await expect(bench.course('Mark')).toContainText('1 surface');
  await page.getByRole('button', { name: 'Leave out …' }).click();
  for (const [x, y] of [
    [450, 280],
    [520, 280],
    [520, 330],
    [450, 330],
  ])
    await bench.press(x, y);
  await bench.picture.press('Enter');
  const outlines = page.getByRole('list', { name: 'Outlines' });
  await expect(outlines).toContainText('left out');
  await bench.key('Control+z');
  await expect(outlines).toHaveCount(0);
  await bench.key('Control+Shift+z');
  await expect(outlines).toContainText('left out');
  await bench.key('t');
  await expect(bench.course('Track')).toContainText('46 of 46 frames', { timeout: 60_000 });
  // Put right on a frame: the ring of its quad is dragged, and the frame is pinned.
  await bench.key('3');
  await bench.key('Home');
  for (let i = 0; i < 3; i++) await bench.key('Shift+ArrowRight');
  await bench.shows(/frame 30\b/);
  await page.getByRole('button', { name: 'Source', exact: true }).click();
  const ring = (await page.locator('[data-part=quad][data-index="2"]').boundingBox())!;
  await page.mouse.move(ring.x + ring.width / 2, ring.y + ring.height / 2);
  await page.mouse.down();
  await page.mouse.move(ring.x + ring.width / 2 + 2, ring.y + ring.height / 2 + 2, { steps: 3 });
  await page.mouse.up();
  await bench.saved();
  const pinned = await server.shot('station');
  const { id } = await surface();
  expect(pinned.measured[id].state[30 - pinned.measured[id].start]).toBe('p');
  for (let i = 0; i < 5; i++) await bench.key('ArrowLeft');
  await bench.shows(/frame 25\b/);
  // What lies between goes with the pin.
  const between = async () =>
    ((await server.shot('station')).measured[id] as MeasuredJson<'surface'>).values.x3?.[28];
  const before = await between();
  await page.getByRole('button', { name: 'Track between pins 0 and 30' }).click();
  await expect.poll(between).not.toBe(before);
  await bench.key('4');
  await bench.key('d');
  await expect(bench.course('Steady')).toContainText('Lock, Surface 1 held');
  await bench.key('s');
  await expect(bench.course('Steady')).toContainText('Calm, Surface 1 held');
  await expect(bench.course('Frame')).toContainText(/Fit zoom \d/);
});
