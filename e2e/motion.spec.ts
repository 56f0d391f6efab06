import { expect, type Page } from '@playwright/test';
import { BenchDriver, truthOf } from './bench-page.js';
import { test } from './kept-page.js';
import { TestServer } from './server.js';
import { trackedShot } from './tracked.js';

/** Goals, frame and comparing on the Bench, over shots tracked as the truth has them. */

const ridge = truthOf('ridge');
const gondola = truthOf('gondola');
const station = truthOf('station');
let server: TestServer;
/** As each test finds them: one that has just undone what it did may be gone before that is saved. */
const shots = {
  ridge: trackedShot(ridge, ['hut', 'cairn', 'board', 'pylon head']),
  gondola: trackedShot(gondola, ['number', 'left window', 'right window', 'hanger']),
  station: trackedShot(station, ['gable', 'door', 'clock', 'sign', 'rail post']),
};
test.beforeAll(async () => {
  server = await TestServer.start({ demo: true });
});
test.afterAll(() => server.stop());

async function open(page: Page, shot: keyof typeof shots, station: string): Promise<BenchDriver> {
  await server.save(shot, shots[shot]);
  const bench = new BenchDriver(page, truthOf(shot).clip);
  await bench.open(server.url, shot);
  await bench.key(station);
  await expect(bench.course('Steady')).toContainText('left of');
  return bench;
}

const zoomOf = async (bench: BenchDriver) =>
  Number(/(\d+\.\d) %/.exec(await bench.course('Frame').innerText())?.[1] ?? NaN);

test('Calm: less smoothing needs less zoom, a point of the chart is picked, and the optimal path keeps its limit', async ({
  page,
}) => {
  const bench = await open(page, 'ridge', '4');
  await bench.key('s');
  await expect(bench.course('Steady')).toContainText(/Calm, 0\.0\d+ left of 1\d\.\d/);
  await expect.poll(() => zoomOf(bench)).toBeGreaterThan(105);
  const before = await zoomOf(bench);
  await bench.field('Smoothing, s', 0.3);
  await expect.poll(() => zoomOf(bench)).toBeLessThan(before - 0.5);

  await bench.key('5');
  const chart = page.getByRole('slider', { name: 'Zoom against smoothing' });
  await chart.focus();
  await chart.press('ArrowRight');
  await expect(chart).toHaveAttribute('aria-valuenow', '0.35');
  await bench.key('4');
  await expect(page.getByLabel('Smoothing, s', { exact: true })).toHaveValue('0.35');

  await page.getByLabel('Method', { exact: true }).selectOption('optimal');
  await bench.field('Zoom at most, %', 103);
  await expect.poll(() => zoomOf(bench)).toBeLessThanOrEqual(103);
  // Each was one step.
  for (let i = 0; i < 4; i++) await bench.key('Control+z');
  await expect(page.getByLabel('Smoothing, s', { exact: true })).toHaveValue('1.00');
  await expect.poll(() => zoomOf(bench)).toBe(before);
  await bench.key('Control+z');
});

test('the worst frames are one key away, and an edge that shows is a doubt', async ({ page }) => {
  const bench = await open(page, 'ridge', '4');
  await bench.key('s');
  await bench.key('Shift+E');
  await bench.shows(/frame 162\./);
  await expect(page.getByRole('heading', { name: 'What taking less out would save' })).toBeVisible();
  await bench.key('Shift+E');
  await expect(bench.picture).not.toHaveAttribute('aria-label', /frame 162\./);
  await page.getByRole('button', { name: 'None', exact: true }).click();
  await expect(bench.course('Frame')).toContainText(/edge shows on \d+ frames/);
  await bench.key('3');
  await expect(page.getByRole('list', { name: 'Doubts' })).toContainText('an edge shows');
  await bench.key('5');
  await page.getByLabel('Beyond them').selectOption('mirrored');
  await expect(bench.course('Frame')).toContainText(/edge mirrored on \d+ frames/);
  await page.getByRole('button', { name: 'Breathing' }).click();
  await expect(bench.course('Frame')).toContainText(/10\d\.\d–10\d\.\d %, no edge/);
  for (let i = 0; i < 4; i++) await bench.key('Control+z');
});

test('the subject is dragged to another place and stays under the pointer, in one step', async ({ page }) => {
  const bench = await open(page, 'gondola', '4');
  await bench.key('Home');
  await bench.key('d');
  const ring = page.locator('[data-part=lock]');
  await expect(ring).toBeVisible();
  const middle = async () => {
    const box = (await ring.boundingBox())!;
    return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  };
  const from = await middle();
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(from.x + 50, from.y - 24, { steps: 6 });
  const off = async () => {
    const now = await middle();
    return Math.hypot(now.x - from.x - 50, now.y - from.y + 24);
  };
  await expect.poll(off).toBeLessThan(1.2);
  await page.mouse.up();
  await expect(page.getByLabel('Held', { exact: true })).toHaveValue('given');
  const zoom = await zoomOf(bench);
  expect(zoom).toBeGreaterThan(110);
  await bench.key('Alt+ArrowRight');
  await expect.poll(async () => (await middle()).x).toBeGreaterThan(from.x + 50.2);
  await bench.key('Control+z');
  await bench.key('Control+z');
  await expect(page.getByLabel('Held', { exact: true })).toHaveValue('reference');
  await bench.key('Control+z');
});

test('hold, then let go: keyframes change the amounts along time and can be dragged', async ({ page }) => {
  const bench = await open(page, 'gondola', '4');
  await bench.key('Home');
  await bench.key('Shift+W');
  for (let i = 0; i < 4; i++) await bench.key('Shift+ArrowRight');
  await bench.shows(/frame 40\./);
  await bench.field('Across, %', 0);
  const keys = page.getByTestId('goal-key');
  await expect(keys).toHaveCount(2);
  await expect(page.getByRole('list', { name: 'Keyframes' })).toContainText('40');
  await bench.key('Home');
  await expect(page.getByLabel('Across, %', { exact: true })).toHaveValue('100');
  const box = (await keys.nth(1).boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + 120, box.y + 6, { steps: 5 });
  await page.mouse.up();
  await expect(page.getByRole('list', { name: 'Keyframes' })).not.toContainText('40');
  await bench.key('Control+z');
  await expect(page.getByRole('list', { name: 'Keyframes' })).toContainText('40');
  await bench.key('Control+z');
  await bench.key('Control+z');
  await expect(keys).toHaveCount(0);
});

test('a spot on a nearer thing is named, and left out by one key', async ({ page }) => {
  const bench = await open(page, 'station', '4');
  await expect(page.getByText(/rail post still moves \d+\.\d px against .*: it is nearer/)).toBeVisible();
  await bench.key('Shift+U');
  await expect(page.getByText(/rail post still moves/)).toHaveCount(0);
  await expect(bench.course('Steady')).toContainText(/Still, 0\.00\d left of/);
  await bench.key('Control+z');
  await expect(page.getByText(/rail post still moves/)).toBeVisible();
});

test('the numbers are open: what was measured beside the correction, the rotation negated', async ({
  page,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  const bench = await open(page, 'station', '4');
  await page.getByRole('button', { name: /Motion and correction in numbers/ }).click();
  await page.getByRole('button', { name: 'Copy as a table' }).click();
  const text = await page.evaluate(() => navigator.clipboard.readText());
  const [head, ...rows] = text.split('\n').map((r) => r.split('\t'));
  expect(rows).toHaveLength(180);
  const column = (name: string) => rows.map((r) => Number(r[head.indexOf(name)]));
  const [measured, applied] = [column('rotation_deg'), column('correction_rotation_deg')];
  measured.forEach((m, i) => expect(applied[i]).toBeCloseTo(-m, 3));
  const [scale, inverse] = [column('scale_pct'), column('correction_scale_pct')];
  scale.forEach((s, i) => expect((s * inverse[i]) / 1e4).toBeCloseTo(1, 3));
  await page.getByRole('button', { name: 'Close' }).click();
  await expect(bench.picture).toBeVisible();
});

test('what is left is measured on the pictures themselves', async ({ page }) => {
  test.setTimeout(120_000);
  const bench = await open(page, 'gondola', '4');
  await bench.key('d');
  await page.getByText('What is left, by component').click();
  await page.getByRole('button', { name: 'Measure on the pictures' }).click();
  await expect(page.getByText(/Measured on the pictures, frames 0 to 149/)).toBeVisible({ timeout: 90_000 });
  const rows = (await page.getByRole('table', { name: 'What is left' }).innerText()).split('\n');
  const across = /Across\s+([\d.]+) px\s+([\d.]+) px/.exec(rows.find((r) => r.startsWith('Across'))!)!;
  expect(Number(across[1])).toBeGreaterThan(4);
  expect(Number(across[2])).toBeLessThan(1);
  // Out of date as soon as the motion is another.
  await bench.field('Across, %', 50);
  await expect(page.getByText(/Measured on the pictures, frames/)).toHaveCount(0);
  await bench.key('Control+z');
  await bench.key('Control+z');
});

test('pictures are compared by keys: blink, difference, onion, wipe; a crosshair stays in both', async ({
  page,
}) => {
  const bench = await open(page, 'station', '4');
  const titles = page.locator('[role=application] > div > span:first-child');
  await expect(titles).toHaveText(['Source', 'Steadied']);
  await bench.key('Shift+D');
  await expect(titles).toHaveText(['Steadied, difference from frame 0']);
  await bench.key('Shift+A');
  await expect(titles).toHaveText(['Steadied, frame 0 laid over']);
  await bench.key('Shift+V');
  await expect(titles).toHaveText(['Source']);
  await expect(titles).toHaveText(['Steadied']);
  await bench.key('Shift+V');
  await expect(titles).toHaveText(['Source', 'Steadied']);
  await bench.key('Shift+X');
  const crosses = page.getByTestId('crosshair');
  await expect(crosses).toHaveCount(2);
  const handle = page.locator('[data-part=crosshair]').first();
  const at = (await handle.boundingBox())!;
  await page.mouse.move(at.x + 9, at.y + 9);
  await page.mouse.down();
  await page.mouse.move(at.x + 39, at.y - 11, { steps: 3 });
  await page.mouse.up();
  expect((await handle.boundingBox())!.x - at.x).toBeCloseTo(30, 0);
  await bench.key('Shift+R');
  await expect(page.getByText('400 %')).toHaveCount(2);
  await bench.key('Shift+F');
  await expect(page.getByText('100 %', { exact: true }).first()).toBeVisible();
  await bench.key('f');
  await bench.key('Shift+X');
  await expect(crosses).toHaveCount(0);
  await bench.key('Shift+M');
  await expect(page.getByRole('img', { name: 'Rotation', exact: true })).toBeVisible();
  await bench.key('Shift+M');
});

test('the reference frame is dragged along the ruler while the picture follows', async ({ page }) => {
  const bench = await open(page, 'station', '4');
  const field = page.getByLabel('Reference frame', { exact: true });
  await expect(field).toHaveValue('0');
  const flag = (await page
    .getByText(/^Reference frame 0: it stays/)
    .locator('..')
    .boundingBox())!;
  const ruler = (await page.getByRole('slider', { name: 'Ruler' }).boundingBox())!;
  await page.mouse.move(flag.x + 6, flag.y + 16);
  await page.mouse.down();
  await page.mouse.move(ruler.x + ruler.width / 2, flag.y + 16, { steps: 6 });
  const middle = Number(await field.inputValue());
  expect(Math.abs(middle - 90)).toBeLessThan(4);
  await page.mouse.up();
  await bench.key('Control+z');
  await expect(field).toHaveValue('0');
  await page.getByLabel('Stands as', { exact: true }).selectOption('average');
  await expect(field).toHaveCount(0);
  await expect(bench.course('Steady')).toContainText('left of');
  await bench.key('Control+z');
});
