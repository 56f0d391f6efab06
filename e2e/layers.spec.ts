import { execFile } from 'node:child_process';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { expect, type Page } from '@playwright/test';
import { ffmpegPath } from '@lurn/engine';
import {
  cornersAbout,
  drawnOutline,
  NEW_CONCEAL,
  NEW_EDGE,
  NEW_LAYER,
  NEW_TEXT_STYLE,
  NEW_TINT,
  type Asset,
  type Layer,
  type PaintStroke,
  type Rides,
} from '@lurn/model';
import { fitScale, layOut } from '../apps/web/src/lib/view.js';
import { BenchDriver, truthOf } from './bench-page.js';
import { test } from './kept-page.js';
import { TestServer } from './server.js';
import { trackedShot } from './tracked.js';

/** Work that rides, on the Bench: made on the steadied picture, given back, kept, rendered as it is seen. */

let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start({ demo: true });
});
test.afterAll(() => server.stop());

const station = truthOf('station');
const SPOTS = ['gable', 'door', 'left window'];
const names = station.features.map((f) => f.name).filter((n) => SPOTS.includes(n) || n.includes('window'));

/** Screen place of a picture pixel in the right one of two panes. */
async function inSteadied({ picture, size }: BenchDriver, x: number, y: number): Promise<[number, number]> {
  const box = (await picture.boundingBox())!;
  const pane = layOut('both', Math.floor(box.width), Math.floor(box.height), 0.5)[1];
  const s = fitScale({ ...size, pixelAspect: 1 }, pane);
  return [
    box.x + pane.x + pane.width / 2 + (x - size.width / 2) * s,
    box.y + pane.height / 2 + (y - size.height / 2) * s,
  ];
}

async function drag(page: Page, places: readonly (readonly [number, number])[]): Promise<void> {
  await page.mouse.move(...places[0]);
  await page.mouse.down();
  for (const place of places.slice(1)) await page.mouse.move(...place, { steps: 3 });
  await page.mouse.up();
}

const layersList = (page: Page) => page.getByRole('list', { name: 'Layers' }).getByRole('listitem');

test('a text, a concealed window, paint and a clone are made on the steadied picture, and are there again', async ({
  page,
}) => {
  test.setTimeout(120_000);
  const bench = new BenchDriver(page, station.clip);
  await bench.open(server.url, 'station');
  // What is held is known once the whole picture has been looked at.
  await expect(bench.course('Mark')).toContainText('held', { timeout: 60_000 });
  await bench.key('6');
  await expect(bench.course('Layers')).toContainText('None');
  await page.getByRole('button', { name: 'Text', exact: true }).click();
  await expect(layersList(page)).toHaveCount(1);
  await page.getByRole('textbox', { name: 'Text', exact: true }).fill('Valley 1140 m');
  await page.getByRole('textbox', { name: 'Text', exact: true }).blur();
  await expect(page.getByLabel('Rides on', { exact: true })).not.toHaveValue('frame:');
  // A letter that the font does not have is named.
  await page.getByRole('textbox', { name: 'Text', exact: true }).fill('谷 1140 m');
  await expect(page.getByText('Hanken Grotesk lacks 谷')).toBeVisible();
  await page.getByRole('textbox', { name: 'Text', exact: true }).fill('Valley 1140 m');
  await page.getByRole('textbox', { name: 'Text', exact: true }).blur();
  // Dragged in the steadied picture; one step of undo brings it back.
  const place = () => page.locator('[data-layer-name="Text 1"] path').first().getAttribute('d');
  const before = await unmoved(place);
  await drag(page, [await inSteadied(bench, 640, 360), await inSteadied(bench, 640, 600)]);
  expect(await place()).not.toBe(before);
  await bench.key('Control+z');
  await expect.poll(place).toBe(before);
  await bench.key('Control+Shift+z');
  await page.getByRole('button', { name: 'Conceal …' }).click();
  await expect(page.getByText(/round what is to be concealed/)).toBeVisible();
  const corners = [
    [560, 300],
    [640, 300],
    [640, 360],
    [560, 360],
  ] as const;
  for (const [x, y] of corners) await page.mouse.click(...(await inSteadied(bench, x, y)));
  await bench.picture.press('Enter');
  await expect(layersList(page)).toHaveCount(2);
  await page.getByText('Squares', { exact: true }).click();
  await page.getByRole('button', { name: 'Paint', exact: true }).click();
  await drag(page, [await inSteadied(bench, 200, 120), await inSteadied(bench, 320, 160)]);
  await expect(page.getByText('1 stroke', { exact: true })).toBeVisible();
  await page.getByText('Clone', { exact: true }).click();
  await drag(page, [await inSteadied(bench, 900, 600), await inSteadied(bench, 960, 610)]);
  await expect(page.getByText(/Say first what is to be painted with/)).toBeVisible();
  await page.keyboard.down('Alt');
  await page.mouse.click(...(await inSteadied(bench, 300, 620)));
  await page.keyboard.up('Alt');
  await expect(page.getByTestId('clone-source').first()).toBeVisible();
  await drag(page, [await inSteadied(bench, 900, 600), await inSteadied(bench, 960, 610)]);
  await expect(page.getByText('2 strokes', { exact: true })).toBeVisible();
  await bench.key('Escape');
  // In order, hidden, and taken away by the key.
  await page.getByRole('button', { name: 'Move Paint 1 down' }).click();
  await expect(layersList(page).first()).toContainText('Conceal 1');
  await page.getByRole('button', { name: 'Hide Conceal 1' }).click();
  await expect(bench.course('Layers')).toContainText('3 layers, 1 hidden');
  await bench.saved();
  await bench.reload();
  await expect(layersList(page)).toHaveCount(3);
  await expect(page.getByText('As shot, layers given back')).toBeVisible();
  await bench.key(';');
  await expect(page.getByText('As shot, layers given back')).toBeHidden();
  await bench.key(';');
  await page.getByRole('button', { name: 'Conceal 1', exact: true }).click();
  await bench.key('Delete');
  await expect(layersList(page)).toHaveCount(2);
});

test('a graphic is brought in, kept behind what passes, and stays when what it rides on goes', async ({
  page,
}) => {
  test.setTimeout(120_000);
  await server.save('ridge', trackedShot(truthOf('ridge'), ['hut', 'cairn']));
  const bench = new BenchDriver(page, truthOf('ridge').clip);
  await bench.open(server.url, 'ridge');
  await page.getByRole('button', { name: /^hut/ }).first().click();
  await bench.key('6');
  await page.getByRole('button', { name: 'Conceal hut' }).click();
  await expect(page.getByLabel('Rides on', { exact: true })).toHaveValue('spot:s0');
  const svg =
    '<svg xmlns="http://www.w3.org/2000/svg" width="60" height="30"><rect width="60" height="30" fill="#d33"/></svg>';
  const chooser = page.getByLabel('Graphic file');
  await chooser.setInputFiles({ name: 'crest.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(svg) });
  await expect(layersList(page)).toHaveCount(2);
  await chooser.setInputFiles({ name: 'broken.png', mimeType: 'image/png', buffer: Buffer.from('nothing') });
  await expect(page.getByText(/"broken.png" is no picture that can be read/)).toBeVisible();
  await page.getByLabel('Rides on', { exact: true }).selectOption('spot:s0');
  await page.getByRole('button', { name: 'Stays in front …' }).click();
  for (const [x, y] of [
    [600, 300],
    [680, 300],
    [680, 420],
  ] as const)
    await page.mouse.click(...(await inSteadied(bench, x, y)));
  await bench.picture.press('Enter');
  await expect(page.getByRole('list', { name: 'Mattes' })).toContainText('In front 1');
  await page.getByLabel('Blend').selectOption('multiply');
  // Its spot is deleted: the layer stays, and says so.
  await bench.key('1');
  await page.getByRole('button', { name: /^hut/ }).first().click();
  await bench.key('Delete');
  await bench.key('6');
  await expect(bench.course('Layers')).toContainText('2 layers ride on nothing');
  await page.getByLabel('Rides on', { exact: true }).selectOption('frame:');
  await expect(bench.course('Layers')).toContainText('1 layer rides on nothing');
  // All of it goes into one file, and comes back from it.
  await bench.key('7');
  await page.getByRole('heading', { name: 'The shot as a file' }).scrollIntoViewIfNeeded();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save the shot' }).click(),
  ]);
  const zip = await readFile(await download.path());
  await bench.key('6');
  await page.getByRole('button', { name: 'Delete Conceal 1' }).click();
  await bench.key('7');
  await page
    .getByLabel('Shot file')
    .setInputFiles({ name: 'shot.zip', mimeType: 'application/zip', buffer: zip });
  await expect(page.getByText(/as it was saved in "shot.zip"/)).toBeVisible();
  await bench.key('6');
  await expect(layersList(page)).toHaveCount(2);
});

/** How red a part of the page is, against green. */
async function redness(page: Page, [x, y]: readonly [number, number]): Promise<number> {
  const shot = await page.screenshot({ clip: { x: x - 4, y: y - 4, width: 8, height: 8 } });
  return page.evaluate(async (data) => {
    const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
    const picture = await createImageBitmap(new Blob([bytes]));
    const context = new OffscreenCanvas(8, 8).getContext('2d')!;
    context.drawImage(picture, 0, 0);
    const { data: rgba } = context.getImageData(0, 0, 8, 8);
    let off = 0;
    for (let k = 0; k < rgba.length; k += 4) off += rgba[k] - rgba[k + 1];
    return off / 64;
  }, shot.toString('base64'));
}

test('the gondola goes by a clean plate, a clip plays in the picture, and a colour is picked from it', async ({
  page,
}) => {
  test.setTimeout(150_000);
  const gondola = truthOf('gondola');
  const bench = new BenchDriver(page, gondola.clip);
  await bench.open(server.url, 'gondola');
  await expect(bench.course('Mark')).toContainText('held', { timeout: 60_000 });
  await bench.key('6');
  await page.getByRole('button', { name: 'Both', exact: true }).click();
  // On the cabin's red side, left of its number.
  const [nx, ny] = gondola.features.find((f) => f.name === 'number')!.positions[0];
  const side = await inSteadied(bench, nx - 60, ny - 22);
  await expect.poll(() => redness(page, side)).toBeGreaterThan(80);
  await page.getByRole('button', { name: 'Clean plate' }).click();
  await expect(page.getByRole('button', { name: 'Stop making the plate' })).toBeVisible();
  await expect(layersList(page)).toContainText(['Clean plate 1'], { timeout: 60_000 });
  await expect.poll(() => redness(page, side)).toBeLessThan(30);
  // It comes before the plate again by its masks, made for the range, and is gone when that is taken back.
  await bench.endOn(2);
  await page.getByLabel('In front: a mover').selectOption({ index: 1 });
  await expect(page.getByRole('list', { name: 'Mattes' })).toContainText('frames 0 to 2', {
    timeout: 60_000,
  });
  await expect.poll(() => redness(page, side)).toBeGreaterThan(80);
  await bench.key('Control+z');
  await expect.poll(() => redness(page, side)).toBeLessThan(30);
  // The range again, and with it the framing.
  await bench.key('Control+z');
  // A film of its own goes on with the playhead.
  await page.getByLabel('Clip of another shot').selectOption({ label: 'sign' });
  await expect(layersList(page)).toContainText(['Clip 1', 'Clean plate 1']);
  await expect(page.getByText(/sign, 960 × 540 px, 180 frames/)).toBeVisible();
  await page.getByText('Stands', { exact: true }).click();
  await expect(page.getByLabel('Its frame', { exact: true })).toHaveValue('0');
  // A tint takes its colour from the picture as it was shot, also where a layer lies over it.
  await page.getByRole('button', { name: 'Tint …' }).click();
  for (const [x, y] of [
    [380, 180],
    [620, 180],
    [620, 380],
    [380, 380],
  ] as const)
    await page.mouse.click(...(await inSteadied(bench, x, y)));
  await bench.picture.press('Enter');
  await page.getByText('Some colours only').click();
  await page.getByRole('button', { name: 'Pick it' }).click();
  await page.mouse.click(...side);
  await expect(page.getByLabel('Near', { exact: true })).toHaveValue(
    /^#[a-f][0-9a-f][0-8][0-9a-f][0-8][0-9a-f]$/,
  );
  await page.getByRole('button', { name: 'Show where' }).click();
  await expect(page.getByRole('button', { name: 'Show where' })).toHaveAttribute('aria-pressed', 'true');
  // One press about a mover that is seen.
  await page.getByLabel('Conceal a mover').selectOption({ index: 1 });
  await expect(layersList(page)).toHaveCount(4);
  await bench.key('Control+z');
  await expect(layersList(page)).toHaveCount(3);
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  await bench.reload();
  await expect(layersList(page)).toContainText(['Tint 1', 'Clip 1', 'Clean plate 1']);
});

const RIDES: Rides = { on: 'mover', id: '', rotation: true, scale: true };
const common = (id: string, name: string) => ({ ...NEW_LAYER, id, name, frame: 60, rides: RIDES });
const box = (x: number, y: number, w: number, h: number) =>
  drawnOutline(
    60,
    [
      [x, y],
      [x + w, y],
      [x + w, y + h],
      [x, y + h],
    ],
    true,
    8,
  );
const stroke = (tool: PaintStroke['tool'], from: PaintStroke['from'], y: number): PaintStroke => ({
  ...{ tool, from, colour: '#f0c020', size: 30, hardness: 0.6, flow: 0.9, on: 'all', frame: 60 },
  points: [
    [520, y, 1],
    [640, y + 10, 0.7],
    [760, y, 1],
  ],
});
/** One of every kind, and of every blend. */
const layers: Layer[] = [
  {
    ...common('t', 'Text'),
    kind: 'text',
    text: 'Valley',
    style: NEW_TEXT_STYLE,
    edge: { ...NEW_EDGE, grow: 1.5 },
    corners: cornersAbout(640, 470, 200, 60),
  },
  ...(['multiply', 'screen', 'overlay', 'softLight', 'add'] as const).map((blend, i): Layer => ({
    ...common(blend, blend),
    ...{ kind: 'shape', colour: '#b06040', outline: box(380 + 95 * i, 250, 80, 70), blend, opacity: 0.8 },
  })),
  { ...common('b', 'Blur'), ...NEW_CONCEAL, outline: box(440, 340, 90, 60) },
  { ...common('s', 'Squares'), ...NEW_CONCEAL, how: 'squares', outline: box(560, 340, 90, 60), grain: 0 },
  { ...common('i', 'Tint'), ...NEW_TINT, hue: 100, exposure: 0.4, outline: box(690, 340, 120, 60) },
  {
    ...common('p', 'Paint'),
    kind: 'paint',
    strokes: [stroke('brush', null, 190), stroke('clone', { frame: 62, x: 30, y: 60, plate: null }, 220)],
  },
];

/** What something is once it stays so: a plan that comes in may still move it. */
async function unmoved<T>(look: () => Promise<T>): Promise<T> {
  let last = await look();
  for (let same = 0; same < 5;) {
    await new Promise((resume) => setTimeout(resume, 100));
    const now = await look();
    same = now === last ? same + 1 : 0;
    last = now;
  }
  return last;
}

/** What is seen once it does not change any more: on a busy machine rasters and films come late. */
async function settled(
  page: Page,
  clip: { x: number; y: number; width: number; height: number },
): Promise<Buffer> {
  let last = await page.screenshot({ clip });
  for (let same = 0, tries = 0; same < 2 && tries < 30; tries++) {
    await page.waitForTimeout(700);
    const now = await page.screenshot({ clip });
    same = now.equals(last) ? same + 1 : 0;
    last = now;
  }
  return last;
}

test('what is seen is what is rendered, of every kind and blend', async ({ page }) => {
  test.setTimeout(150_000);
  const shot = trackedShot(station, names);
  const [delivery] = shot.document.deliveries;
  const taken = await page.request.post(
    `${server.url}/api/assets/from-clip/${(await server.clip('sign')).id}`,
  );
  const { asset } = (await taken.json()) as { asset: Asset };
  const clip: Layer = {
    ...{ ...common('c', 'Clip'), kind: 'clip', asset: asset.hash, play: 'loop', first: 40, rate: 1 },
    corners: cornersAbout(900, 300, 120, 68),
  };
  await server.save('station', {
    ...shot,
    document: {
      ...{ ...shot.document, layers: [...layers, clip], assets: [asset], range: { from: 60, to: 63 } },
      deliveries: [{ ...delivery, settings: { crf: 0 } }],
    },
  });
  const bench = new BenchDriver(page, station.clip);
  await bench.open(server.url, 'station');
  await bench.key('7');
  await page.getByTestId('view').getByRole('button', { name: 'Steadied', exact: true }).click();
  // Pixel on pixel: the middle of the pane has to be the middle of the picture.
  const odd = Math.floor((await bench.picture.boundingBox())!.height) % 2;
  if (odd) await page.setViewportSize({ width: 1280, height: 801 });
  const area = (await bench.picture.boundingBox())!;
  expect([Math.floor(area.width) % 2, Math.floor(area.height) % 2]).toEqual([0, 0]);
  await bench.key('Shift+f');
  // Home is the in point.
  await bench.key('Home');
  await bench.shows(/frame 60\./);
  const seen = await settled(page, area);
  await page.getByRole('button', { name: 'Render the steadied picture' }).click();
  const file = page.getByRole('link', { name: /Download/ }).first();
  await expect(file).toBeVisible({ timeout: 90_000 });
  const answer = await page.request.get(new URL((await file.getAttribute('href'))!, server.url).href);
  const [rendered, picture] = [join(server.data, 'layers.mp4'), join(server.data, 'layers.png')];
  await writeFile(rendered, await answer.body());
  await writeFile(picture, seen);
  const grey = async (path: string, filter: string) => {
    const args = [
      '-v',
      'error',
      '-i',
      path,
      '-vf',
      filter,
      '-frames:v',
      '1',
      '-f',
      'rawvideo',
      '-pix_fmt',
      'gray',
      '-',
    ];
    return (await promisify(execFile)(await ffmpegPath(), args, { encoding: 'buffer', maxBuffer: 1e7 }))
      .stdout;
  };
  const [w, h] = [Math.floor(area.width), Math.floor(area.height)];
  const a = await grey(rendered, 'extractplanes=y');
  // The page shows full range, coded by BT.709 as the clip is.
  const b = await grey(
    picture,
    'scale=out_color_matrix=bt709:out_range=tv:flags=accurate_rnd,format=yuv444p,extractplanes=y',
  );
  const bw = Math.round(area.width);
  const off: number[] = [];
  for (let y = 40; y < h - 60; y++)
    for (let x = 20; x < w - 20; x++) {
      const [px, py] = [x + 640 - w / 2, y + 360 - h / 2];
      off.push(Math.abs(a[py * 1280 + px] - b[y * bw + x]));
    }
  off.sort((p, q) => p - q);
  expect(off[Math.floor(0.995 * off.length)]).toBeLessThanOrEqual(3);
  expect(off[Math.floor(0.5 * off.length)]).toBeLessThanOrEqual(1);
});
