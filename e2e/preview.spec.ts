import { expect, test } from '@playwright/test';
import {
  chain,
  composeSimilarity,
  matrixWarp,
  meshOver,
  scaling,
  translation,
  type Warp,
} from '@lurn/core/geometry';
import { createPlane, PlaneCoding, planeOver, ToneMap } from '@lurn/core/picture';
import { borrowPlane, chromaWarp, featherOf, warpPlane, type EdgeMode } from '@lurn/core/warp';
import { sharedHarness } from './harness/open.js';
import { packed, unpacked } from './harness/packed.js';
import type { Harness, SentPlanes, SentWarp } from './harness/page.js';
import { TestServer } from './server.js';

declare const harness: Harness;

/** The preview's shader and the render's threads draw the same picture, within two grey levels of 255. */

let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start();
});
test.afterAll(() => server.stop());
const page = sharedHarness(() => server.url);

test('the kernels run in the page', async () => {
  expect(await page().evaluate(() => harness.kernelsMissing())).toBeNull();
});

const [W, H] = [192, 128];

function madeUp(width: number, height: number, phase: number): Uint8Array {
  const data = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const wave = 60 * Math.sin(x / 3.1 + phase) * Math.cos(y / 4.7) + 40 * Math.sin((x * y) / 190);
      const edge = x > width / 2 === y > height / 3 ? 25 : -25;
      data[y * width + x] = Math.max(16, Math.min(235, 128 + wave + edge));
    }
  }
  return data;
}

const m = matrixWarp;
const moves: Record<string, Warp> = {
  'a small shake': m(
    composeSimilarity({ x: 3.37, y: -2.81, rotation: 0.021, logScale: 0.03 }, { x: W / 2, y: H / 2 }),
  ),
  'a zoom in': m(chain(translation(W * 0.2, H * 0.2), scaling(0.6))),
  'an edge in the frame': m(translation(-14.4, 9.7)),
  'a shrink to 60 %': m(chain(translation(-40, -30), scaling(1 / 0.6))),
  'a shrink to 30 %': m(chain(translation(-200, -140), scaling(1 / 0.3))),
  'a homography': m([0.93, 0.05, 4.2, -0.04, 0.97, 3.1, 0.0009, -0.0006, 1]),
  'a homography that shrinks on one side': m([1.1, 0.02, -8, 0.01, 1.2, -6, 0.0035, 0.0004, 1]),
  'a mesh': meshOver(W, H, 6, 4, (x, y) => ({
    x: x + 4 * Math.sin(y / 30) + 1.3,
    y: y + 3 * Math.cos(x / 40) - 2.1,
  })),
};

/** As it goes to the page. */
function sent(warp: Warp): SentWarp {
  if (warp.kind === 'mesh') return { ...warp, to: [...warp.to] };
  if (warp.kind === 'matrix') return warp;
  throw new RangeError('No picture is led to by this.');
}

interface Given {
  readonly y: Uint8Array;
  readonly u: Uint8Array;
  readonly v: Uint8Array;
  readonly toLuma: Warp;
}

async function drawnBy(pictures: readonly Given[], mode: EdgeMode): Promise<Uint8Array> {
  const plain = pictures.map(({ y, u, v, toLuma }) => ({ ...sentPlanes({ y, u, v }), toLuma: sent(toLuma) }));
  const drawn = page().evaluate(([list, size, edges]) => harness.warp(list, size, size, edges), [
    plain,
    [W, H],
    mode,
  ] as [(SentPlanes & { toLuma: SentWarp })[], [number, number], EdgeMode]);
  return unpacked(await drawn);
}

function sentPlanes({ y, u, v }: Record<keyof SentPlanes, Uint8Array>): SentPlanes {
  return { y: packed(y), u: packed(u), v: packed(v) };
}

const grey = (n: number) => new Uint8Array(n).fill(128);
const chromaless = { u: grey((W * H) / 4), v: grey((W * H) / 4) };

for (const mode of ['stretched', 'mirrored'] as const) {
  test(`preview and render agree on ${mode} edges`, async () => {
    const y = madeUp(W, H, 0);
    const toLuma = m(
      composeSimilarity({ x: -31, y: 22, rotation: 0.06, logScale: 0.12 }, { x: W / 2, y: H / 2 }),
    );
    const drawn = await drawnBy([{ y, ...chromaless, toLuma }], mode);
    const luma = createPlane(W, H);
    warpPlane(planeOver(y, W, H), luma, toLuma, mode);
    const off = [...luma.data].map((value, i) => Math.abs(value - drawn[4 * i]));
    expect(Math.max(...off)).toBeLessThanOrEqual(2);
    // Nothing is left of what a colour would show there.
    expect(luma.data[0]).not.toBe(16);
  });
}

test('preview and render agree on edges borrowed from two frames', async () => {
  const moved = [translation(-30, 12), translation(26, 6), translation(-8, -34)].map(m);
  const pictures = moved.map((toLuma, k) => ({ y: madeUp(W, H, k), ...chromaless, toLuma }));
  const drawn = await drawnBy(pictures, 'borrowed');
  const luma = createPlane(W, H);
  const sheets = pictures.map(({ y, toLuma }) => ({
    plane: planeOver(y, W, H),
    toSource: toLuma,
    offset: 0,
  }));
  warpPlane(sheets[0].plane, luma, sheets[0].toSource, 16);
  borrowPlane(sheets, luma, featherOf({ width: W, height: H }), 16);
  const off = [...luma.data].map((value, i) => Math.abs(value - drawn[4 * i]));
  expect(Math.max(...off)).toBeLessThanOrEqual(3);
  // The strip at the left comes from the second frame, the corner that nobody saw keeps the colour.
  expect(luma.data[60 * W + 4]).not.toBe(16);
});

for (const [mode, warp] of [
  ['colour', 'an edge in the frame'],
  ['stretched', 'an edge in the frame'],
  ['mirrored', 'an edge in the frame'],
  ['transparent', 'an edge in the frame'],
  ['colour', 'a homography'],
  ['colour', 'a mesh'],
] as const) {
  test(`without a graphics card the draft of ${warp} lies where the exact picture lies, with ${mode} edges`, async () => {
    // Smooth, so that a difference is one of place or colour and not of the kernel.
    const waves = (width: number, height: number, phase: number) =>
      Uint8Array.from({ length: width * height }, (_, i) =>
        Math.round(
          128 + 50 * Math.sin((i % width) / (width / 9) + phase) * Math.cos(i / width / (height / 6)),
        ),
      );
    const planes = { y: waves(W, H, 0), u: waves(W / 2, H / 2, 1), v: waves(W / 2, H / 2, 2) };
    const seen = async (draft: boolean) =>
      unpacked(
        await page().evaluate(([p, w, size, edges, d]) => harness.shown(p, w, size, edges, d), [
          sentPlanes(planes),
          sent(moves[warp]),
          [W, H],
          mode,
          draft,
        ] as Parameters<Harness['shown']>),
      );
    const [exact, draft] = [await seen(false), await seen(true)];
    const colours = exact.map((v, i) => Math.abs(v - draft[i])).filter((_, i) => i % 4 < 3);
    const off = colours.sort((a, b) => a - b);
    // The exact picture fades over a sample at its edge; the draft does not.
    expect(off[Math.floor(0.96 * off.length)]).toBeLessThanOrEqual(6);
    expect(new Set(exact).size).toBeGreaterThan(60);
  });
}

for (const mode of ['colour', 'stretched', 'mirrored', 'transparent'] as const) {
  test(`the processor draws exactly what a graphics card would draw, with ${mode} edges`, async () => {
    const planes = {
      y: madeUp(W, H, 0),
      u: madeUp(W / 2, H / 2, 1).map((v) => 96 + v / 4),
      v: madeUp(W / 2, H / 2, 2).map((v) => 96 + v / 4),
    };
    for (const [name, warp] of Object.entries(moves)) {
      const [processor, card] = await Promise.all(
        [false, true].map(async (by) =>
          unpacked(
            await page().evaluate(
              ([p, w, size, edges, c]) => harness.shown(p, w, size, edges, false, undefined, c),
              [sentPlanes(planes), sent(warp), [W, H], mode, by] as [
                SentPlanes,
                SentWarp,
                [number, number],
                EdgeMode,
                boolean,
              ],
            ),
          ),
        ),
      );
      const off = processor.map((v, i) => Math.abs(v - card[i])).sort((a, b) => a - b);
      // Luma and two of chroma, each within two levels before they become red, green and blue.
      expect(off[Math.floor(0.999 * off.length)], name).toBeLessThanOrEqual(4);
      expect(off[off.length >> 1], name).toBeLessThanOrEqual(1);
    }
  });
}

for (const transfer of ['smpte2084', 'arib-std-b67']) {
  test(`${transfer} is shown as the tone map has it, drafted and exact`, async () => {
    // Squares of eight samples, each of one colour: from black to the brightest, grey and not.
    const [across, down] = [W / 8, H / 8];
    const square = (i: number, width: number, side: number) =>
      Math.floor((i % width) / side) + across * Math.floor(i / width / side);
    const last = across * down - 1;
    const y = Uint8Array.from({ length: W * H }, (_, i) => Math.round(16 + (219 * square(i, W, 8)) / last));
    const chroma = (steps: number) =>
      Uint8Array.from(
        { length: (W * H) / 4 },
        (_, i) => 128 + 12 * ((square(i, W / 2, 4) % steps) - (steps >> 1)),
      );
    const planes = { y, u: chroma(3), v: chroma(5) };
    const light = { space: 'bt2020nc', transfer, primaries: 'bt2020' };
    const map = ToneMap.for(light)!;
    const coding = new PlaneCoding({ range: 'tv', space: 'bt2020nc' }, H);
    for (const draft of [true, false]) {
      const seen = unpacked(
        await page().evaluate(([p, w, size, d, l]) => harness.shown(p, w, size, 'colour', d, l), [
          sentPlanes(planes),
          sent(m([1, 0, 0, 0, 1, 0, 0, 0, 1])),
          [W, H],
          draft,
          light,
        ] as [SentPlanes, SentWarp, [number, number], boolean, typeof light]),
      );
      const [rgb, out] = [new Float64Array(3), [0, 0, 0]];
      const off: number[] = [];
      for (let k = 0; k <= last; k++) {
        const [px, py] = [8 * (k % across) + 4, 8 * Math.floor(k / across) + 4];
        const c = (py >> 1) * (W / 2) + (px >> 1);
        coding.toRgb(y[py * W + px], planes.u[c], planes.v[c], rgb);
        const code = (v: number) => Math.round(255 * Math.min(1, Math.max(0, v)));
        map.show(code(rgb[0]), code(rgb[1]), code(rgb[2]), out);
        for (let i = 0; i < 3; i++) off.push(Math.abs(seen[4 * (py * W + px) + i] - out[i]));
      }
      off.sort((a, b) => a - b);
      // The table looks up codes of eight bits: where a primary is nearly out of the screen's gamut, that is some levels.
      expect(off[Math.floor(0.95 * off.length)]).toBeLessThanOrEqual(4);
      expect(off[off.length - 1]).toBeLessThanOrEqual(draft ? 4 : 30);
    }
  });
}

for (const [name, outputToSource] of Object.entries(moves)) {
  test(`preview and render agree on ${name}`, async () => {
    const y = madeUp(W, H, 0);
    const u = madeUp(W / 2, H / 2, 1);
    const v = madeUp(W / 2, H / 2, 2);
    const drawn = await drawnBy([{ y, u, v, toLuma: outputToSource }], 'colour');
    const luma = createPlane(W, H);
    warpPlane(planeOver(y, W, H), luma, outputToSource, 16);
    let worst = 0;
    luma.data.forEach((value, i) => (worst = Math.max(worst, Math.abs(value - drawn[4 * i]))));
    expect(worst).toBeLessThanOrEqual(2);
    // Chroma is drawn at luma's resolution on screen: compare where a chroma sample's centre falls on a luma pixel
    // column (left siting) by drawing the render's chroma there too.
    const half = { x: 2, y: 2 } as const;
    const warp = chromaWarp(outputToSource, half, 'left');
    const chroma = createPlane(W / 2, H / 2);
    warpPlane(planeOver(u, W / 2, H / 2), chroma, warp, 128);
    let mean = 0;
    for (let j = 0; j < H / 2; j++) {
      for (let i = 0; i < W / 2; i++) {
        const at = (k: number) => drawn[4 * (k * W + 2 * i) + 1];
        mean += Math.abs(chroma.data[j * (W / 2) + i] - (at(2 * j) + at(2 * j + 1)) / 2) / ((W * H) / 4);
      }
    }
    expect(mean).toBeLessThan(2.5);
  });
}
