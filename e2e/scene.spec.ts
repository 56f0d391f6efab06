import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { BenchDriver, truthOf } from './bench-page.js';
import { test } from './kept-page.js';
import { TestServer } from './server.js';

/** The whole picture: a clip stands steady before anything is marked, and what is held is pointed at. */

let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start({ demo: true });
});
test.afterAll(() => server.stop());

const gondola = truthOf('gondola');

test('a new clip opens steadied, says why, and the other goal is one press away', async ({ page }) => {
  await page.goto(server.url);
  await expect(page.getByRole('listitem', { name: 'ridge' })).toContainText('Calm, not looked at');
  await page.getByTitle('Open ridge on the Bench').click();
  const bench = new BenchDriver(page, truthOf('ridge').clip);
  await expect(bench.course('Steady')).toHaveAttribute('aria-current', 'step');
  await expect(bench.course('Mark')).toContainText(
    /Surroundings held: \d\d.% of the picture, nothing marked/,
  );
  await expect(bench.course('Steady')).toContainText(/Calm, 0\.\d+ left of \d/);
  await expect(page.getByText(/Calm: the camera means to move and shakes by/)).toBeVisible();
  await expect(page.getByRole('application')).toHaveAttribute('data-layout', 'both');
  await page.getByRole('button', { name: 'Still instead' }).click();
  await expect(bench.course('Steady')).toContainText(/Still/);
  await bench.key('Control+z');
  await expect(bench.course('Steady')).toContainText(/Calm/);
});

test('what is pointed at is held, told against the rest, and undone in one step', async ({ page }) => {
  const bench = new BenchDriver(page, gondola.clip);
  await page.goto(server.url);
  await page.getByTitle('Open gondola on the Bench').click();
  await expect(bench.course('Mark')).toContainText('Surroundings held');
  const before = await bench.course('Steady').textContent();
  await page.getByRole('button', { name: 'Source', exact: true }).click();
  // The gondola, on a frame on which all of it is seen.
  const frame = 60;
  for (let i = 0; i < frame / 10; i++) await bench.key('Shift+ArrowRight');
  await bench.shows(new RegExp(`frame ${frame}\\b`));
  await page.getByRole('button', { name: 'Point at it' }).click();
  await expect(page.getByTestId('mover-tint')).toBeVisible();
  await expect(page.getByText('Press on what should be held')).toBeVisible();
  const [x, y] = gondola.features.find((f) => f.name === 'number')!.positions[frame];
  await bench.press(x, y);
  await expect(bench.course('Mark')).toContainText(/Mover \d held/);
  await expect(page.getByTestId('mover-tint')).toHaveCount(0);
  await expect(page.getByRole('list', { name: 'Against what is held' })).toContainText(
    /Surroundings still moves[\d.]+ px/,
  );
  await expect(bench.course('Steady')).not.toHaveText(before!);
  await bench.saved();
  await bench.reload();
  await expect(bench.course('Mark')).toContainText(/Mover \d held/);
  await page.getByLabel('What is held', { exact: true }).selectOption('');
  await expect(bench.course('Mark')).toContainText('Surroundings held');
  // What else a person may want to hold is a press away, with what it would cost.
  const cards = page.getByRole('group', { name: 'What may be held' }).getByRole('button');
  await expect(cards.first()).toHaveAttribute('aria-pressed', 'true');
  await expect(cards.nth(1)).toHaveText(/Mover \d.*moves \d+(\.\d)? px.*(zoom \d+ %|no zoom fits)/);
  await cards.nth(1).click();
  await expect(bench.course('Mark')).toContainText(/Mover \d held/);
  await bench.key('Control+z');
  await expect(bench.course('Mark')).toContainText('Surroundings held');
});

test('several shots are steadied and rendered without opening them', async ({ page }) => {
  test.setTimeout(180_000);
  for (const name of ['station', 'gondola']) {
    const shot = await server.shot(name);
    await server.save(name, { ...shot, document: { ...shot.document, range: { from: 0, to: 24 } } });
  }
  await page.goto(server.url);
  await page.getByRole('checkbox', { name: 'Select station' }).check();
  await page.getByRole('checkbox', { name: 'Select gondola' }).check();
  await page.getByRole('group', { name: 'Steady these' }).getByRole('button', { name: 'Calm' }).click();
  await expect(page.getByText('2 renders queued')).toBeVisible();
  for (const name of ['station', 'gondola']) {
    await expect(page.getByRole('listitem', { name })).toContainText('1 file', { timeout: 120_000 });
    const shot = await server.shot(name);
    expect(shot.document.goal.goal).toBe('calm');
  }
  const { renders } = (await server.clips()).find((c) => c.name === 'station')!;
  const file = await fetch(`${server.url}/api/renders/${renders[0].id}/file`);
  const source = readFileSync('demo/shots/station.mp4').length;
  expect((await file.arrayBuffer()).byteLength).toBeGreaterThan(source / 80);
});

test('what is drawn round is not measured, rides on what moves, and is there again after a reload', async ({
  page,
}) => {
  const platform = truthOf('platform');
  const bench = new BenchDriver(page, platform.clip);
  await bench.open(server.url, 'platform');
  await expect(bench.course('Mark')).toContainText('Surroundings held');
  await expect(page.getByTitle(/Cut: another picture begins on frame 150/)).toBeVisible();
  await bench.key('Shift+I');
  await expect(page.getByText(/Press corner by corner round what should not be measured/)).toBeVisible();
  const [bx, by] = platform.features.find((f) => f.name === 'badge')!.positions[0];
  for (const [dx, dy] of [
    [-300, 210],
    [-160, -250],
    [20, -250],
    [170, 210],
  ])
    await bench.press(bx + dx, by + dy);
  await bench.picture.press('Enter');
  const areas = page.getByRole('list', { name: 'Areas' });
  await expect(areas).toContainText('Ignored');
  await expect(page.getByText('Ignored: not measured')).toBeVisible();
  await page.getByLabel('Rides on').selectOption({ label: 'Mover 2' });
  await bench.saved();
  // Nothing is suggested on it: only round it.
  await page.getByRole('button', { name: 'Suggest 4' }).click();
  const suggestions = page.getByRole('list', { name: 'Suggestions' }).getByRole('listitem');
  await expect(suggestions).toHaveCount(4);
  await bench.reload();
  await bench.key('1');
  await expect(areas).toContainText('1 key');
  const { document } = await server.shot('platform');
  expect(document.areas).toMatchObject([{ kind: 'ignore', rides: 'scene-2', keys: [{ frame: 0 }] }]);
  // All of it ignored leaves nothing to hold, and that is said.
  await bench.key('Shift+I');
  for (const [x, y] of [
    [2, 2],
    [958, 2],
    [958, 538],
    [2, 538],
  ])
    await bench.press(x, y);
  await bench.picture.press('Enter');
  await expect(bench.course('Steady')).toContainText('The areas leave nothing to hold');
  await bench.key('Delete');
  await expect(bench.course('Steady')).toContainText(/Still, 0\.\d+ left/);
});
