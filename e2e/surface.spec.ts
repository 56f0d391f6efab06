import { readFile } from 'node:fs/promises';
import { expect, test } from '@playwright/test';
import { BenchDriver, truthOf } from './bench-page.js';
import { TestServer } from './server.js';

/** A flat surface on the Bench: drawn, tracked, checked, held, handed over. */

let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start();
  await server.ready();
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
  await bench.key('Home');
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
  await expect(bench.course('Track')).toContainText('180 of 180 frames', { timeout: 90_000 });
  await expect(page.getByRole('checkbox', { name: 'Hold it' })).toBeChecked();
  await expect(bench.course('Steady')).toContainText('Still, Surface 1 held');
  // How each part fits, and the surface laid flat.
  await bench.key('0');
  await expect(page.getByTestId('misfits').locator('path').first()).toBeVisible();
  await page.getByText('Laid flat').click();
  await expect(page.getByRole('img', { name: /^Difference/ })).toBeVisible();
  await bench.saved();
  await page.reload();
  await expect(bench.course('Mark')).toContainText('1 surface');
  await bench.key('6');
  await page.getByRole('heading', { name: 'Corner pin of Surface 1' }).scrollIntoViewIfNeeded();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save as CSV' }).click(),
  ]);
  const rows = (await readFile(await download.path(), 'utf8')).trim().split('\n').slice(1);
  expect(rows).toHaveLength(180);
  // The hand that placed the corners was about half a pixel off: what it was off by stays the same.
  const off = rows.map((row) => {
    const [, frame, , ...values] = row.split(',');
    return corners(Number(frame)).map(([x, y], k) => [
      Number(values[2 * k]) - x,
      Number(values[2 * k + 1]) - y,
    ]);
  });
  for (const frame of [60, 90, 120, 179])
    off[frame].forEach(([dx, dy], k) => {
      expect(Math.abs(dx - off[0][k][0])).toBeLessThan(0.35);
      expect(Math.abs(dy - off[0][k][1])).toBeLessThan(0.35);
    });
  await bench.key('6');
  await page.getByRole('button', { name: 'Render the steadied picture' }).click();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible({ timeout: 90_000 });
});
