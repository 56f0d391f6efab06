import { apply, IDENTITY, invert, translation, type Matrix3 } from '../geometry/matrix.js';
import { matrixWarp, meshOver, type Warp } from '../geometry/warp.js';
import { quadToQuad, rectangle, type Quad } from '../geometry/homography.js';
import { PlaneCoding } from '../picture/colour.js';
import { createPlane, deepPlaneOver, type AnyPlane } from '../picture/plane.js';
import { speckledSurface, takePicture } from '../testing/footage.js';
import { MIXES, type Blend } from './blend.js';
import { compose, type ComposeLook } from './compose.js';
import type { PicturePlanes } from './picture-planes.js';
import type { SceneLayer } from './layer.js';
import type { SceneMatte } from './matte.js';
import type { Raster } from './raster.js';
import type { Scene } from './scene.js';

/** Layers over pictures, against what a camera would have seen had they been there. */

const [W, H] = [160, 120];
const surface = speckledSurface(31, 200);
const code = { range: 'tv', space: 'bt709', height: H } as const;
const coding = new PlaneCoding(code, H);

const flat = (width: number, height: number, value: number): AnyPlane => {
  const plane = createPlane(width, height);
  plane.data.fill(value);
  return plane;
};
const picture = (sub: 1 | 2 = 2): PicturePlanes => ({
  y: takePicture(surface, IDENTITY, W, H),
  u: flat(W / sub, H / sub, 120),
  v: flat(W / sub, H / sub, 140),
  subsampling: { x: sub, y: sub },
});
const blank = ({ y, u, v, subsampling }: PicturePlanes, alpha = false): PicturePlanes => ({
  ...{
    y: flat(y.width, y.height, 1),
    u: flat(u.width, u.height, 1),
    v: flat(v.width, v.height, 1),
    subsampling,
  },
  ...(alpha && { alpha: flat(y.width, y.height, 1) }),
});

const still: Warp = matrixWarp(IDENTITY);
const layer = (content: SceneLayer['content'], more: Partial<SceneLayer> = {}): SceneLayer => ({
  ...{ id: 'a', content, toOwn: still, opacity: 1, blend: 'normal', grain: 0, mattes: [] },
  ...more,
});
const scene = (layers: SceneLayer[], more: Partial<Scene['base']> = {}): Scene => ({
  size: { width: W, height: H },
  base: { frame: 7, toSource: still, edges: { mode: 'colour', colour: [0, 0, 0] }, donors: [], ...more },
  layers,
});
const outline = (
  points: readonly (readonly [number, number])[],
  soften = 0,
  outside = false,
): SceneMatte => ({
  kind: 'outline',
  outline: { points: points.map(([x, y]) => ({ x, y })), grow: 0, soften },
  toOwn: still,
  outside,
});
const BOX = outline([
  [40, 30],
  [100, 30],
  [100, 80],
  [40, 80],
]);

function drawn(
  layers: SceneLayer[],
  source: PicturePlanes,
  rasters: Record<string, Raster> = {},
  out = blank(source),
  more: Partial<Scene['base']> = {},
): PicturePlanes {
  const look: ComposeLook = {
    siting: 'center',
    fill: [16, 128, 128],
    code,
    rasters: (key) => rasters[key] ?? null,
  };
  compose(scene(layers, more), () => source, out, look);
  return out;
}

/** A graphic of smooth colours, and what it is at any place of it. */
const colourAt = (u: number, v: number): [number, number, number] => [
  0.5 + 0.4 * Math.sin(u / 9),
  0.5 + 0.4 * Math.cos(v / 11),
  0.5 + 0.3 * Math.sin((u + v) / 13),
];
function graphic(width: number, height: number, alpha: (u: number, v: number) => number = () => 1): Raster {
  const data = new Uint8Array(4 * width * height);
  for (let y = 0, k = 0; y < height; y++)
    for (let x = 0; x < width; x++, k += 4) {
      const a = alpha(x + 0.5, y + 0.5);
      colourAt(x + 0.5, y + 0.5).forEach((c, i) => (data[k + i] = Math.round(255 * a * c)));
      data[k + 3] = Math.round(255 * a);
    }
  return { width, height, data };
}

/** How many samples of two pictures differ. */
const apart = (a: PicturePlanes, b: PicturePlanes) =>
  (['y', 'u', 'v'] as const).reduce(
    (n, key) => n + Array.from(a[key].data).filter((v, i) => v !== b[key].data[i]).length,
    0,
  );

const psnr = (squares: number, n: number) => 10 * Math.log10(255 ** 2 / (squares / n));
const LEANING: Quad = [
  { x: 30.3, y: 22.1 },
  { x: 121.7, y: 31.4 },
  { x: 131.2, y: 99.6 },
  { x: 22.8, y: 88.2 },
];

describe('a layer', () => {
  it('leaves every sample that it does not cover as it was decoded', () => {
    const source = picture();
    expect(apart(drawn([], source), source)).toBe(0);
    const out = drawn([layer({ kind: 'plain', colour: [250, 10, 10] }, { mattes: [[BOX]] })], source);
    let [inside, beyond] = [0, 0];
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const changed = Number(out.y.data[y * W + x] !== source.y.data[y * W + x]);
        if (x >= 40 && x < 100 && y >= 30 && y < 80) inside += changed;
        else beyond += changed;
      }
    expect(inside).toBeGreaterThan(2900);
    expect(beyond).toBe(0);
    expect(out.u.data[0]).toBe(120);
    expect(out.u.data[25 * (W / 2) + 35]).not.toBe(120);
  });

  it.each([
    ['as shot', 100, 70],
    ['shrunk by far', 640, 480],
    ['enlarged', 40, 30],
  ])('on a leaning panel, %s, is the exact composite, without a seam', (_, width, height) => {
    const source = picture(1);
    const toPanel = quadToQuad(LEANING, rectangle(0, 0, width, height))!;
    // Smooth whatever its size.
    const unit = 100 / width;
    const made = graphic(width, height);
    for (let y = 0, k = 0; y < height; y++)
      for (let x = 0; x < width; x++, k += 4)
        colourAt((x + 0.5) * unit, (y + 0.5) * unit).forEach(
          (c, i) => (made.data[k + i] = Math.round(255 * c)),
        );
    const out = drawn([layer({ kind: 'raster', raster: 'g', corners: LEANING })], source, { g: made });
    const planes = new Float64Array(3);
    const N = 8;
    let [squares, n, worst] = [0, 0, 0];
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const k = y * W + x;
        const sum = [0, 0, 0];
        for (let b = 0; b < N; b++)
          for (let a = 0; a < N; a++) {
            const p = apply(toPanel, x + (a + 0.5) / N, y + (b + 0.5) / N);
            const there = p.x >= 0 && p.x < width && p.y >= 0 && p.y < height;
            if (there) coding.toPlanes(...colourAt(p.x * unit, p.y * unit), planes);
            else planes.set([source.y.data[k], 120, 140]);
            planes.forEach((v, i) => (sum[i] += v / N ** 2));
          }
        [out.y, out.u, out.v].forEach((plane, i) => {
          const off = plane.data[k] - sum[i];
          squares += off ** 2;
          n++;
          worst = Math.max(worst, Math.abs(off));
        });
      }
    expect(psnr(squares, n)).toBeGreaterThan(45);
    // Between samples that are far apart a colour is a guess, all the more at the rim.
    expect(worst).toBeLessThan(width < 50 ? 4 : 3.2);
  });

  it('with a soft edge of its own shows no dark seam', () => {
    const source = { ...picture(1), y: flat(W, H, 200) };
    const soft = graphic(60, 60, (u, v) => Math.min(1, Math.max(0, (28 - Math.hypot(u - 30, v - 30)) / 8)));
    soft.data.forEach((_, k) => (soft.data[k] = soft.data[4 * (k >> 2) + 3])); // white
    const out = drawn(
      [layer({ kind: 'raster', raster: 'g', corners: rectangle(37.3, 21.8, 97.3, 81.8) })],
      source,
      {
        g: soft,
      },
    );
    expect(Math.min(...out.y.data)).toBeGreaterThanOrEqual(200);
    expect(Math.max(...out.y.data)).toBe(235);
  });

  it.each(Object.keys(MIXES) as Blend[])('blends by %s as the formula has it', (blend) => {
    const source = { ...picture(1), y: flat(W, H, 120) };
    const over: [number, number, number] = [200, 90, 40];
    const out = drawn(
      [layer({ kind: 'plain', colour: over }, { blend, opacity: 0.7, mattes: [[BOX]] })],
      source,
    );
    const rgb = new Float64Array(3);
    coding.toRgb(120, 120, 140, rgb);
    const mixed = Array.from(rgb, (under, i) => 0.3 * under + 0.7 * MIXES[blend](under, over[i] / 255));
    const planes = new Float64Array(3);
    coding.toPlanes(mixed[0], mixed[1], mixed[2], planes);
    const k = 50 * W + 70;
    [out.y, out.u, out.v].forEach((plane, i) =>
      expect(Math.abs(plane.data[k] - planes[i])).toBeLessThanOrEqual(1),
    );
  });

  it('is the same over ten bits, four times finer', () => {
    const source = picture();
    const deep = ({ data, width, height }: AnyPlane) =>
      deepPlaneOver(
        Uint16Array.from(data, (v) => 4 * v),
        width,
        height,
        10,
      );
    const ten = { ...source, y: deep(source.y), u: deep(source.u), v: deep(source.v) };
    const out = {
      ...blank(ten),
      y: deep(blank(source).y),
      u: deep(blank(source).u),
      v: deep(blank(source).v),
    };
    const layers = [
      layer({ kind: 'plain', colour: [30, 90, 200] }, { blend: 'screen', opacity: 0.6, mattes: [[BOX]] }),
      layer({ kind: 'blurred', radius: 3 }, { mattes: [[BOX]] }),
    ];
    const [a, b] = [drawn(layers, source), drawn(layers, ten, {}, out)];
    for (const key of ['y', 'u', 'v'] as const) {
      const off = [...a[key].data].map((v, i) => Math.abs(4 * v - b[key].data[i]));
      expect(off.filter((d) => !(d <= 5))).toEqual([]);
    }
  });

  it('is as bright as reference white on a clip of HDR, and a plate of its own stays as it is', () => {
    const source = picture();
    const hdr = {
      range: 'tv',
      space: 'bt2020nc',
      height: H,
      transfer: 'smpte2084',
      primaries: 'bt2020',
    } as const;
    const white: Raster = { width: 8, height: 8, data: new Uint8Array(256).fill(255) };
    const content = { kind: 'raster', raster: 'white', corners: rectangle(0, 0, W, H) } as const;
    const on = (layers: SceneLayer[]) => {
      const out = blank(source);
      compose(scene(layers), () => source, out, {
        siting: 'left',
        fill: [16, 128, 128],
        code: hdr,
        rasters: () => white,
      });
      return out;
    };
    // 203 candelas a square metre by SMPTE ST 2084, in the range of video.
    const code = 16 + 219 * 0.5807;
    const at = 60 * W + 80;
    for (const one of [
      layer(content),
      layer({ kind: 'plain', colour: [255, 255, 255] }, { mattes: [[BOX]] }),
    ]) {
      const { y, u, v } = on([one]);
      expect(Math.abs(y.data[at] - code)).toBeLessThanOrEqual(1);
      expect([u.data[30 * u.stride + 40], v.data[30 * v.stride + 40]]).toEqual([128, 128]);
    }
    expect(on([layer({ ...content, ofClip: true })]).y.data[at]).toBe(235);
  });

  it('shows as much as its mattes let through, whether it is inside or beyond them', () => {
    const source = { ...picture(1), y: flat(W, H, 16) };
    const white = { kind: 'plain', colour: [255, 255, 255] } as const;
    const lit = (mattes: SceneLayer['mattes']) =>
      Array.from(drawn([layer(white, { mattes })], source).y.data).reduce((s, v) => s + (v - 16) / 219, 0);
    const round = outline(
      Array.from({ length: 60 }, (_, i) => [
        80 + 30 * Math.cos((i / 30) * Math.PI),
        60 + 30 * Math.sin((i / 30) * Math.PI),
      ]),
    );
    expect(lit([[BOX]]) / 3000).toBeCloseTo(1, 2);
    expect(lit([[round]]) / (Math.PI * 900)).toBeCloseTo(1, 1);
    expect(lit([[{ ...BOX, outside: true } as SceneMatte]]) / (W * H - 3000)).toBeCloseTo(1, 2);
    // Softening keeps an edge where it is.
    const soft = {
      ...BOX,
      outline: { ...(BOX as SceneMatte & { kind: 'outline' }).outline, soften: 12 },
    } as SceneMatte;
    expect(lit([[soft]]) / 3000).toBeCloseTo(1, 1);
    const both = outline([
      [100, 30],
      [110, 30],
      [110, 80],
      [100, 80],
    ]);
    expect(lit([[BOX, both]]) / 3500).toBeCloseTo(1, 1);
    expect(lit([[BOX], [both]])).toBeLessThan(60);
  });

  it('is kept off by a colour: what is in front shows', () => {
    const source = picture(1);
    source.v.data.fill(200, 0, (W * H) / 2);
    const rgb = new Float64Array(3);
    coding.toRgb(120, 120, 200, rgb);
    const colour = Array.from(rgb, (c) => 255 * Math.min(1, Math.max(0, c))) as unknown as [
      number,
      number,
      number,
    ];
    const range = { colour, reach: 0.3, soften: 0.1, brightness: false };
    const out = drawn(
      [layer({ kind: 'plain', colour: [0, 0, 255] }, { mattes: [[{ kind: 'key', range, outside: true }]] })],
      source,
    );
    expect(out.u.data[W * 20 + 30]).toBe(120);
    expect(out.u.data[W * 100 + 30]).toBe(240);
  });

  it('shows the picture of another frame where it is painted', () => {
    const [source, other] = [picture(), { ...picture(), y: flat(W, H, 77), u: flat(W / 2, H / 2, 99) }];
    const dab: Raster = { width: 20, height: 20, data: new Uint8Array(1600).fill(255) };
    const content = {
      ...({ kind: 'picture', frame: 3, raster: 'm', toPicture: still } as const),
      corners: rectangle(50, 40, 70, 60),
    };
    const out = blank(source);
    const look: ComposeLook = { siting: 'left', fill: [16, 128, 128], code, rasters: () => dab };
    compose(scene([layer(content)]), (f) => (f === 3 ? other : source), out, look);
    expect([out.y.data[50 * W + 60], out.u.data[25 * (W / 2) + 30]]).toEqual([77, 99]);
    expect(out.y.data[30 * W + 60]).toBe(source.y.data[30 * W + 60]);
  });

  it('shows a graphic as far as a stencil covers it, over picture and alpha alike, and nothing without one of them', () => {
    const source = picture();
    const plate = graphic(W, H);
    const dab: Raster = { width: 20, height: 20, data: new Uint8Array(1600).fill(255) };
    const stencil = { raster: 'dab', corners: rectangle(50, 40, 70, 60) };
    const content = { kind: 'raster', raster: 'plate', corners: rectangle(0, 0, W, H), stencil } as const;
    const all = drawn([layer({ ...content, stencil: undefined })], source, { plate });
    const out = drawn([layer(content)], source, { plate, dab });
    for (const [x, y] of [
      [52, 42],
      [60, 50],
      [68, 58],
    ])
      expect(Math.abs(out.y.data[y * W + x] - all.y.data[y * W + x])).toBeLessThanOrEqual(1);
    let beyond = 0;
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++)
        if (x < 48 || x > 72 || y < 38 || y > 62)
          beyond += Number(out.y.data[y * W + x] !== source.y.data[y * W + x]);
    expect(beyond).toBe(0);
    const open = { ...blank(source), alpha: { ...blank(source).y, data: new Uint8Array(W * H) } };
    drawn([layer(content)], source, { plate, dab }, open, { shown: false });
    expect([open.alpha.data[50 * W + 60], open.alpha.data[50 * W + 40]]).toEqual([255, 0]);
    expect([
      apart(drawn([layer(content)], source, { plate }), source),
      apart(drawn([layer(content)], source, { dab }), source),
    ]).toEqual([0, 0]);
  });

  it('conceals: blurred, in squares, or in one colour, and keeps what is there on average', () => {
    const source = picture(1);
    const mean = (planes: PicturePlanes) => {
      let sum = 0;
      for (let y = 30; y < 80; y++) for (let x = 40; x < 100; x++) sum += planes.y.data[y * W + x];
      return sum / 3000;
    };
    const steps = (planes: PicturePlanes, of: (step: number) => number) => {
      let sum = 0;
      for (let y = 35; y < 75; y++)
        for (let x = 45; x < 95; x++)
          sum += of(Math.abs(planes.y.data[y * W + x] - planes.y.data[y * W + x + 1]));
      return sum;
    };
    const [blurred, squares] = [
      { kind: 'blurred', radius: 8 } as const,
      { kind: 'squares', size: 10 } as const,
    ].map((content) => drawn([layer(content, { mattes: [[BOX]] })], source));
    for (const out of [blurred, squares]) expect(Math.abs(mean(out) - mean(source))).toBeLessThan(6);
    expect(steps(blurred, (d) => d)).toBeLessThan(steps(source, (d) => d) / 3);
    // A square is of one colour: only where one meets the next is there a step.
    expect(steps(squares, (d) => Math.sign(d))).toBeLessThanOrEqual((40 * 50) / 10);
  });

  it('tints by hue, colour and light, and does nothing when told to do nothing', () => {
    const source = picture(1);
    const tinted = (tint: object) => {
      const none = { hue: 0, saturation: 1, lightness: 0, exposure: 0, range: null };
      return drawn([layer({ kind: 'tinted', tint: { ...none, ...tint } }, { mattes: [[BOX]] })], source);
    };
    expect(apart(tinted({}), source)).toBe(0);
    const k = 50 * W + 70;
    const of = ({ y, u, v }: PicturePlanes) => [y.data[k], u.data[k], v.data[k]];
    const [y] = of(source);
    expect(of(tinted({ saturation: 0 }))).toEqual([y, 128, 128]);
    expect(of(tinted({ exposure: -1 }))).toEqual([Math.round(16 + (y - 16) / 2), 124, 134]);
    expect(of(tinted({ hue: Math.PI }))).toEqual([y, 136, 116]);
    const elsewhere = { colour: [0, 255, 0] as const, reach: 0.1, soften: 0.1, brightness: false };
    expect(apart(tinted({ saturation: 0, range: elsewhere }), source)).toBe(0);
  });

  it('lies in the same place through a mesh as through the matrix that it stands for', () => {
    const source = picture(1);
    const m: Matrix3 = [1.03, 0.02, -4, -0.01, 0.98, 3, 0, 0, 1];
    const rasters = { g: graphic(60, 40) };
    const content = { kind: 'raster', raster: 'g', corners: rectangle(50, 40, 110, 80) } as const;
    const [a, b] = [matrixWarp(m), meshOver(W, H, 20, 20, (x, y) => apply(m, x, y))].map((toOwn) =>
      drawn([layer(content, { toOwn })], source, rasters),
    );
    const off = Array.from(a.y.data, (v, i) => Math.abs(v - b.y.data[i]));
    expect(Math.max(...off)).toBeLessThanOrEqual(1);
    expect(apart(a, source)).toBeGreaterThan(1000);
  });

  it('stands alone, with alpha, and there is as opaque as it is', () => {
    const source = picture(1);
    const content = { kind: 'plain', colour: [255, 255, 255] } as const;
    const out = drawn([layer(content, { opacity: 0.5, mattes: [[BOX]] })], source, {}, blank(source, true), {
      shown: false,
    });
    const k = 50 * W + 70;
    expect([out.alpha!.data[0], out.alpha!.data[k]]).toEqual([0, 128]);
    // The colour is its own, not that of nothing under it.
    expect(out.y.data[k]).toBe(235);
  });

  it('that is not there, is turned over or has nothing to show changes nothing', () => {
    const source = picture();
    const gone = { kind: 'raster', raster: 'gone', corners: rectangle(0, 0, 20, 20) } as const;
    const behind = matrixWarp([1, 0, 0, 0, 1, 0, -0.01, 0, -1]);
    const plain = { kind: 'plain', colour: [9, 9, 9] } as const;
    const nothing = [
      layer(gone),
      layer(plain, { opacity: 0 }),
      layer(plain, { mattes: [[{ ...BOX, toOwn: behind } as SceneMatte]] }),
      layer({ ...gone, raster: 'g' }, { toOwn: matrixWarp(invert(translation(5000, 5000))) }),
    ];
    nothing.forEach((l, i) =>
      expect([i, apart(drawn([l], source, { g: graphic(20, 20) }), source)]).toEqual([i, 0]),
    );
  });
});
