import { expect, type Page } from '@playwright/test';
import { newDocument } from '@lurn/model';
import { BenchDriver, truthOf } from './bench-page.js';
import { test } from './kept-page.js';
import { TestServer } from './server.js';

const gondola = truthOf('gondola');
const station = truthOf('station');

let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start({ demo: true });
});
test.afterAll(() => server.stop());

async function openAfresh(page: Page, shot: 'gondola' | 'station'): Promise<BenchDriver> {
  // Each test begins with nothing done.
  const { clip } = truthOf(shot);
  await server.save(shot, { document: newDocument(clip), measured: {} });
  const bench = new BenchDriver(page, clip);
  await bench.open(server.url, shot);
  return bench;
}

const panel = (page: Page) => page.getByRole('complementary', { name: 'Station' });
const toasts = (page: Page) => page.locator('[data-sonner-toast]');

test('the gondola is coasted behind the pylon and found again; its doubts are listed and settled', async ({
  page,
}) => {
  test.setTimeout(150_000);
  const bench = await openAfresh(page, 'gondola');
  await bench.endOn(109);
  await bench.mark(gondola, ['number', 'left window']);
  await bench.key('t');
  await expect(bench.course('Track')).toContainText('110 of 110 frames', { timeout: 90_000 });
  await expect(bench.course('Repair')).toContainText(/\d+ doubts/);

  await bench.key('z');
  const doubts = page.getByRole('list', { name: 'Doubts' }).getByRole('listitem');
  await expect(doubts.filter({ hasText: 'coasted' }).first()).toBeVisible();
  await doubts.filter({ hasText: 'coasted' }).first().getByRole('button').first().click();
  await expect(panel(page).getByText(/Hidden, and predicted, on frames \d+ to \d+/)).toBeVisible();
  await bench.shows(/frame (7|8)\d/);

  const count = async () =>
    (await doubts.allInnerTexts()).reduce((sum, text) => sum + 1 + Number(/\+(\d+)/.exec(text)?.[1] ?? 0), 0);
  const before = await count();
  await bench.key('e');
  await expect.poll(count).toBe(before - 1);
  await bench.key('Control+z');
  await expect.poll(count).toBe(before);
  // What has one cause is one entry, and can be settled at once.
  const causes = await doubts.count();
  const cause = doubts.filter({ has: page.getByRole('button', { name: /^\d+ places$/ }) }).first();
  await cause.getByRole('button').first().click();
  const all = cause.getByRole('button', { name: /All \d+ are fine/ });
  const places = parseInt((await all.innerText()).match(/\d+/)![0]);
  await all.click();
  await expect(doubts).toHaveCount(causes - 1);
  await expect.poll(count).toBe(before - places);
  await bench.saved();
  // What was found to be fine stays so after a reload.
  await bench.reload();
  await expect.poll(count).toBe(before - places);
});

test('a stretch is tracked between two pins, and bridged, each undone in one step', async ({ page }) => {
  test.setTimeout(120_000);
  const bench = await openAfresh(page, 'gondola');
  await bench.mark(gondola, ['number'], 0);
  const go = async (frame: number) => {
    await bench.key('Home');
    for (let i = 0; i < Math.floor(frame / 10); i++) await bench.key('Shift+ArrowRight');
    for (let i = 0; i < frame % 10; i++) await bench.key('ArrowRight');
    await bench.shows(new RegExp(`frame ${frame}\\b`));
  };
  await go(20);
  await bench.key('3');
  const [x, y] = gondola.features.find((f) => f.name === 'number')!.positions[20];
  await page.getByRole('button', { name: 'Place by hand' }).click();
  await bench.press(x, y);
  await bench.shows(/frame 21\b/); // it steps on
  await bench.key('Escape');
  await go(10);
  await page.getByRole('button', { name: 'Track between pins 0 and 20' }).click();
  await expect(toasts(page).filter({ hasText: 'tracked between frames 0 and 20' })).toBeVisible({
    timeout: 30_000,
  });
  await bench.key('1');
  const truth = gondola.features.find((f) => f.name === 'number')!.positions[10];
  const across = page.getByLabel('Across, px', { exact: true });
  // The second pin was pressed by hand, to about a screen pixel.
  await expect.poll(async () => Math.abs(Number(await across.inputValue()) - truth[0])).toBeLessThan(2);
  await expect(panel(page).getByText(/confidence, tracked/)).toBeVisible();
  await bench.key('Control+z');
  await expect(panel(page).getByText('It has no sample on this frame')).toBeVisible();
  await bench.key('p');
  await expect(panel(page).getByText(/confidence, bridged/)).toBeVisible();
  await bench.key('Control+z');
  await expect(panel(page).getByText('It has no sample on this frame')).toBeVisible();
});

test('a path carries on with another feature, and goes back', async ({ page }) => {
  const bench = await openAfresh(page, 'station');
  await bench.mark(station, ['gable']);
  const across = page.getByLabel('Across, px', { exact: true });
  const before = await across.inputValue();
  await bench.key('3');
  await bench.key('Shift+C');
  await expect(page.getByText('Press on another feature of the same thing')).toBeVisible();
  const [x, y] = station.features.find((f) => f.name === 'window')!.positions[0];
  await bench.press(x, y);
  await expect(panel(page).getByText(/carries on at/)).toBeVisible();
  await bench.key('g');
  await bench.shows(/frame 1\b/);
  await bench.key('1');
  // The path is still the gable's, though the window is tracked.
  const gable = station.features.find((f) => f.name === 'gable')!.positions;
  await expect.poll(async () => Math.abs(Number(await across.inputValue()) - gable[1][0])).toBeLessThan(0.6);
  await bench.key('Control+z');
  await bench.key('Control+z');
  await bench.key('3');
  await expect(panel(page).getByText(/carries on at/)).toHaveCount(0);
  await bench.key('Home');
  await bench.key('1');
  await expect(across).toHaveValue(before);
});

test('spots are suggested, placed as one step, and their grip is told', async ({ page }) => {
  const bench = await openAfresh(page, 'station');
  await bench.key('b');
  const suggestions = page.getByRole('list', { name: 'Suggestions' }).getByRole('listitem');
  await expect(suggestions).toHaveCount(4, { timeout: 20_000 });
  await expect(suggestions.first()).toContainText(/± 0\.\d\d px/);
  await page.getByRole('button', { name: 'Place all 4' }).click();
  await expect(bench.course('Mark')).toContainText('4 spots');
  await expect(panel(page).getByText(/Holds (firmly|fairly)/)).toBeVisible();
  await bench.key('Control+z');
  await expect(bench.course('Mark')).toContainText('nothing marked');

  // Within a rectangle round the lower windows.
  await page.getByLabel('Only within a rectangle').check();
  const [x0, y0] = await bench.place(380, 400);
  const [x1, y1] = await bench.place(640, 520);
  await page.mouse.move(x0, y0);
  await page.mouse.down();
  await page.mouse.move(x1, y1, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByLabel('Only within the rectangle')).toBeChecked();
  await page.getByRole('button', { name: 'A pair' }).click();
  await expect(suggestions).toHaveCount(2, { timeout: 20_000 });
  await page.getByRole('button', { name: 'Place all 2' }).click();
  await expect(bench.course('Mark')).toContainText('2 spots');
  const across = Number(await page.getByLabel('Across, px', { exact: true }).inputValue());
  const down = Number(await page.getByLabel('Down, px', { exact: true }).inputValue());
  expect(across).toBeGreaterThan(376);
  expect(across).toBeLessThan(644);
  expect(down).toBeGreaterThan(396);
  expect(down).toBeLessThan(524);
});

test('grip is told in words; the tracker’s eye shows and changes what is matched', async ({ page }) => {
  const bench = await openAfresh(page, 'station');
  await bench.press(640, 620); // on the platform's railing
  await expect(panel(page).getByText(/Holds|Nothing to hold/)).toBeVisible();
  await page.getByLabel('Show what the tracker sees').check();
  await expect(page.getByText('tracker’s eye').first()).toBeVisible();
  await page.getByLabel('Match on').selectOption('saturation');
  await bench.field('Even out contrast, %', 50);
  await expect(page.getByLabel('Even out contrast, %')).toHaveValue('50');
  await bench.key('Control+z');
  await expect(page.getByLabel('Even out contrast, %')).toHaveValue('0');
  await bench.key('y');
  await expect(page.getByText('tracker’s eye', { exact: true })).toHaveCount(0);
});

test('handles change patch and reach, each on its own axis, as one step', async ({ page }) => {
  const bench = await openAfresh(page, 'station');
  await bench.mark(station, ['gable']);
  const width = page.getByLabel('Patch, half width, px');
  const height = page.getByLabel('Patch, half height, px');
  const handle = page.locator('[data-part=patch] rect').first();
  const box = (await handle.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 12, box.y + box.height / 2 + 4, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => Number(await width.inputValue())).toBeGreaterThan(25);
  expect(Number(await height.inputValue())).toBeLessThan(Number(await width.inputValue()));
  await bench.key('Control+z');
  await expect(width).toHaveValue('15');
});

test('samples are imported from a file, with the fault named where there is one', async ({ page }) => {
  const bench = await openAfresh(page, 'station');
  await page.getByRole('button', { name: 'Import spots or motion' }).click();
  const dialog = page.getByRole('dialog', { name: 'Import' });
  const choose = (text: string) =>
    dialog
      .getByLabel('File of samples')
      .setInputFiles({ name: 'door.csv', mimeType: 'text/csv', buffer: Buffer.from(text) });
  await choose('frame;x;y\n0;612,5;400\n1;nine;401\n');
  await expect(dialog.getByRole('alert')).toContainText(
    'line 3, column x: "nine" is not a number. Nothing was imported',
  );
  await expect(dialog.getByRole('button', { name: 'Import', exact: true })).toBeDisabled();
  await choose('frame;x;y\n0;612,5;400\n1;613,5;401\n4;615;402\n');
  await expect(dialog.getByRole('list', { name: 'What will be imported' })).toContainText(
    'door: 3 samples, frames 0 to 4, 2 frames between without one',
  );
  await dialog.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(bench.course('Mark')).toContainText('1 spot');
  await page.getByRole('button', { name: 'Select door' }).first().click();
  await expect(page.getByLabel('Across, px', { exact: true })).toHaveValue('612.50');
  await bench.key('Control+z');
  await expect(bench.course('Mark')).toContainText('nothing marked');
  // A motion becomes a surface that is tracked already, and is held.
  const shift = (x: number) => [1, 0, x, 0, 1, 0, 0, 0, 1];
  const frames = Array.from({ length: 180 }, (_, frame) => ({
    ...{
      frame,
      motion: shift(frame / 9),
      correction: shift(-frame / 9),
      framing: shift(0),
      residual_px: 0.1,
    },
  }));
  const clip = { width: 1280, height: 720, frames: 180, fps: 30 };
  await bench.key('1');
  await page.getByRole('button', { name: 'Import spots or motion' }).click();
  await choose(JSON.stringify({ clip, ref: 0, zoom: 1, held: 'far ridge', cuts: [], frames }));
  await expect(dialog.getByRole('list', { name: 'What will be imported' })).toContainText(
    'far ridge: a flat surface, 180 frames, as it lies on frame 0',
  );
  await dialog.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(bench.course('Mark')).toContainText('1 surface');
  await expect(bench.course('Track')).toContainText('180 of 180 frames');
  await bench.key('4');
  await expect(page.getByLabel('Name of what is held')).toHaveValue('far ridge');
});

test('the time axis zooms, a span is chosen on a ribbon, and its samples are deleted', async ({ page }) => {
  test.setTimeout(90_000);
  const bench = await openAfresh(page, 'gondola');
  await bench.mark(gondola, ['number']);
  for (let i = 1; i <= 12; i++) {
    await bench.key('g');
    await bench.shows(new RegExp(`frame ${i}\\b`));
    await expect(bench.course('Track')).toContainText(`${i + 1} of 150 frames`);
  }
  const ribbon = page.getByRole('img', { name: 'Confidence of A' });
  // The ribbon is drawn: single samples have a mark in the middle of the row once there is room for them.
  const changes = () =>
    ribbon
      .locator('xpath=..')
      .locator('canvas')
      .evaluate((canvas: HTMLCanvasElement) => {
        const { width, height } = canvas;
        const row = canvas.getContext('2d')!.getImageData(0, height >> 1, width, 1).data;
        let count = 0;
        for (let i = 4; i < row.length; i += 4) if (Math.abs(row[i] - row[i - 4]) > 40) count++;
        return count;
      });
  expect(await changes()).toBeLessThan(20);
  await bench.key('Home');
  for (let i = 0; i < 5; i++) await bench.key(']');
  await expect.poll(changes).toBeGreaterThan(20);
  const box = (await ribbon.boundingBox())!;
  await page.keyboard.down('Shift');
  await page.mouse.move(box.x + 30, box.y + 9);
  await page.mouse.down();
  await page.mouse.move(box.x + 300, box.y + 9, { steps: 5 });
  await page.mouse.up();
  await page.keyboard.up('Shift');
  await bench.key('3');
  const button = panel(page).getByRole('button', { name: /^\d+ to \d+$/ });
  await expect(bench.course('Track')).toContainText('13 of 150 frames');
  await button.click();
  await expect(bench.course('Track')).toContainText(/Track(1[0-2]|[1-9]) of 150 frames/);
  await page.getByRole('button', { name: 'Curves of A' }).click();
  await expect(page.getByRole('img', { name: 'A, across' })).toBeVisible();
  await bench.key('\\');
  await expect.poll(changes).toBeLessThan(20);
});

test('a track is checked by going back over it, the view follows, both ways in one step', async ({
  page,
}) => {
  test.setTimeout(120_000);
  const bench = await openAfresh(page, 'gondola');
  await bench.key('Home');
  for (let i = 0; i < 3; i++) await bench.key('ArrowRight');
  await bench.mark(gondola, ['number'], 3);
  await bench.key('a');
  await bench.key('+');
  await bench.key('h');
  await expect(bench.course('Track')).toContainText('150 of 150 frames', { timeout: 60_000 });
  await expect(page.getByRole('progressbar', { name: 'Tracking' })).toHaveCount(0);
  await bench.key('3');
  await bench.key('Shift+Q');
  await expect(toasts(page).filter({ hasText: /Tracked back/ })).toBeVisible({ timeout: 60_000 });
  await bench.key('Control+z');
  await bench.key('Control+z');
  await expect(bench.course('Track')).not.toContainText('150 of 150 frames');
});

test('notes are written on the ruler, come from subtitles and timelines, and stay', async ({ page }) => {
  const bench = await openAfresh(page, 'station');
  await bench.course('Repair').click();
  const on = async (tens: number) => {
    for (let k = 0; k < tens; k++) await bench.key('Shift+ArrowRight');
  };
  await bench.key('Home');
  await on(4);
  await bench.key('!');
  const field = page.getByRole('textbox', { name: 'Note on frame 40' });
  await expect(field).toBeFocused();
  await field.fill('rope crosses the sign');
  await field.press('Enter');
  const list = panel(page).getByRole('list', { name: 'Notes' }).getByRole('listitem');
  await expect(list).toHaveText([/40.*rope crosses the sign/]);

  // Escape leaves everything as it was; nothing written is no note.
  await on(2);
  await bench.key('!');
  await page.keyboard.type('never kept');
  await page.keyboard.press('Escape');
  await expect(list).toHaveCount(1);

  const srt = '1\n00:00:02,000 --> 00:00:03,000\nwind\n';
  const file = panel(page).getByLabel('File of notes');
  await file.setInputFiles({ name: 'valley.srt', mimeType: 'text/plain', buffer: Buffer.from(srt) });
  await expect(toasts(page)).toContainText('1 note from valley.srt');
  await expect(list).toHaveText([/40.*rope/, /60–89.*wind/]);
  await file.setInputFiles({ name: 'bad.csv', mimeType: 'text/csv', buffer: Buffer.from('a,b\n1,2\n') });
  await expect(toasts(page)).toContainText('a "frame" or a "time", and a "note" are due');
  await expect(list).toHaveCount(2);

  // A timeline of two pieces: where it cuts, what is smoothed begins anew; its range is in and out.
  const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: 30, value });
  const piece = (at: number, length: number) => ({
    ...{ OTIO_SCHEMA: 'Clip.1', name: 'valley', markers: [] },
    source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(at), duration: time(length) },
  });
  const children = [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children: [piece(0, 30), piece(100, 50)] }];
  const timeline = { OTIO_SCHEMA: 'Timeline.1', tracks: { OTIO_SCHEMA: 'Stack.1', children } };
  const buffer = Buffer.from(JSON.stringify(timeline));
  await file.setInputFiles({ name: 'edit.otio', mimeType: 'application/json', buffer });
  const cut = (frame: number) => page.getByRole('button', { name: `Take the cut on frame ${frame} away` });
  await expect(cut(100)).toBeVisible();
  await bench.key('Control+z');
  await expect(cut(100)).toHaveCount(0);
  await bench.key(':');
  await cut(60).click();
  await expect(cut(60)).toHaveCount(0);

  await bench.key('(');
  await bench.shows(/frame 40/);
  await bench.key(')');
  await bench.shows(/frame 60/);
  if (process.env.SHOT) await page.screenshot({ path: process.env.SHOT });

  // On the ruler one is dragged, and undo puts it back.
  const mark = page.locator('[data-note]').first();
  const from = (await mark.boundingBox())!;
  await page.mouse.move(from.x + 3, from.y + 5);
  await page.mouse.down();
  await page.mouse.move(from.x + 63, from.y + 5, { steps: 4 });
  await page.mouse.up();
  await expect(list.first()).not.toContainText(/^40/);
  await bench.key('Control+z');
  await expect(list.first()).toContainText(/^40/);

  await bench.saved();
  await bench.reload();
  await expect(page.locator('[data-note]')).toHaveCount(2);
});
