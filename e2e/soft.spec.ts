import { readFile } from 'node:fs/promises';
import { expect } from '@playwright/test';
import { BenchDriver, truthOf } from './bench-page.js';
import { test } from './kept-page.js';
import { TestServer } from './server.js';

/** A soft surface on the Bench: drawn, meshed, tracked, mended, laid flat, worked on, handed over. */

let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start({ demo: true });
});
test.afterAll(() => server.stop());

const flag = truthOf('flag');
const OUTLINE = [
  [322, 90],
  [500, 96],
  [694, 126],
  [694, 372],
  [500, 360],
  [322, 364],
] as const;

interface Soft {
  kind: string;
  vertices: [number, number][];
  faces: number[][];
  fit: string;
}

/** The middle of the largest face: there is room for one more point. */
function middleOfLargest(vertices: [number, number][], faces: number[][]): [number, number] {
  const middles = faces.map((face) => {
    const at = face.map((v) => vertices[v]);
    const mean = (k: 0 | 1) => at.reduce((s, p) => s + p[k], 0) / at.length;
    const room = Math.min(...at.map((p) => Math.hypot(p[0] - mean(0), p[1] - mean(1))));
    return { at: [mean(0), mean(1)] as [number, number], room };
  });
  return middles.reduce((a, b) => (b.room > a.room ? b : a)).at;
}

test('a flag is drawn round, followed by a mesh, mended, laid flat and handed over', async ({ page }) => {
  test.setTimeout(240_000);
  const bench = new BenchDriver(page, flag.clip);
  await bench.open(server.url, 'flag');
  await bench.endOn(29);
  // What finds faces comes with the application: it looks, and there is none.
  await bench.key('%');
  const told = page.locator('[data-sonner-toast]').filter({ hasText: 'No face was found on frame 0' });
  await expect(told).toBeVisible({ timeout: 60_000 });
  // By its colour: the lower half of the flag, and no more, becomes a mesh; taken back.
  await bench.key('_');
  await expect(page.getByText('Press on its colour')).toBeVisible();
  await bench.press(620, 320);
  await expect(bench.course('Mark')).toContainText('1 surface');
  const trackers = async () => (await server.shot('flag')).document.trackers as unknown as Soft[];
  await expect.poll(async () => (await trackers()).length).toBe(1);
  const [coloured] = await trackers();
  const [across, down] = [0, 1].map((k) => coloured.vertices.map((v) => v[k]));
  expect(Math.min(...across)).toBeGreaterThan(300);
  expect(Math.max(...across)).toBeLessThan(720);
  expect(Math.min(...down)).toBeGreaterThan(150);
  await bench.key('Control+z');
  await expect(bench.course('Mark')).toContainText('nothing marked');
  await bench.key('*');
  await expect(page.getByText('Press corner by corner round cloth, skin, a leaf')).toBeVisible();
  for (const [x, y] of OUTLINE) await bench.press(x, y);
  await bench.picture.press('Enter');
  await expect(bench.course('Mark')).toContainText('1 surface');
  await page.getByLabel('Its points').selectOption('texture');
  const soft = async () => (await server.shot('flag')).document.trackers[0] as unknown as Soft;
  // The mesh is made anew from the picture, in a worker: what is saved comes when it is there.
  await expect.poll(async () => ((await soft()) as Soft | undefined)?.fit).toBe('texture');
  // A point more, and it is taken out again.
  const { vertices, faces } = await soft();
  const count = vertices.length;
  await page.getByRole('button', { name: 'Edit points' }).click();
  await expect(page.getByText('Press to put a point')).toBeVisible();
  await bench.press(...middleOfLargest(vertices, faces));
  await expect.poll(async () => (await soft()).vertices.length).toBe(count + 1);
  await bench.key('Control+z');
  await page.getByRole('button', { name: 'Edit points' }).click();
  await page.getByLabel('Apart, px').fill('60');
  await page.getByLabel('Apart, px').press('Enter');
  await expect.poll(async () => (await soft()).vertices.length).toBeLessThan(count);
  await bench.key('t');
  await expect(bench.course('Track')).toContainText('30 of 30 frames', { timeout: 150_000 });
  await expect(bench.course('Steady')).toContainText('Cloth 1 laid flat');
  // Mended: a point is dragged on another frame, which pins it there.
  await bench.key('3');
  await page.keyboard.press('Home');
  await bench.key('Shift+ArrowRight');
  const handle = page.getByTestId('soft').locator('[data-part="vertex"]').first();
  await bench.shows(/frame 10/);
  // With the first steadied picture the view changes: it is taken hold of when nothing moves any more.
  let box = (await handle.boundingBox())!;
  await expect(async () => {
    const before = box;
    await page.waitForTimeout(400);
    box = (await handle.boundingBox())!;
    expect(box).toEqual(before);
  }).toPass();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 4, box.y + box.height / 2 + 3, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByRole('button', { name: 'Let go of 1 pin here' })).toBeVisible();
  await bench.key('Control+z');
  await expect(page.getByRole('button', { name: 'Let go of 1 pin here' })).toBeHidden();
  await bench.saved();
  await bench.reload();
  await expect(bench.course('Steady')).toContainText('Cloth 1 laid flat');
  await bench.key('7');
  await page.getByRole('button', { name: 'Meshes' }).click();
  await page.getByLabel('Written as').selectOption({ label: 'JSON' });
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save JSON' }).click(),
  ]);
  const { meshes } = JSON.parse(await readFile(await download.path(), 'utf8')) as {
    meshes: { vertices: number[][]; frames: { frame: number; vertices: (number[] | null)[] }[] }[];
  };
  expect(meshes[0].frames).toHaveLength(30);
  // Where the crest's middle went, by the point that is nearest to it.
  const crest = flag.features.find((f) => f.name === 'crest')!.positions;
  const near = meshes[0].vertices
    .map(([x, y], i) => ({ i, d: Math.hypot(x - crest[0][0], y - crest[0][1]) }))
    .sort((a, b) => a.d - b.d)[0];
  const [x0, y0] = meshes[0].vertices[near.i];
  for (const f of [20, 28]) {
    const there = meshes[0].frames[f].vertices[near.i]!;
    const off = Math.hypot(
      there[0] - x0 - crest[f][0] + crest[0][0],
      there[1] - y0 - crest[f][1] + crest[0][1],
    );
    expect(off).toBeLessThan(2 + 0.35 * near.d);
  }
});
