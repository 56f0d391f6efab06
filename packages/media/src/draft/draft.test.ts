import {
  chain,
  composeSimilarity,
  IDENTITY,
  matrixWarp,
  meshOver,
  evaluatorOf,
  scaling,
  translation,
  type Matrix3,
  type Warp,
} from '@lurn/core/geometry';
import { createPlane, planeOver } from '@lurn/core/picture';
import { chromaWarp, warpPlane, type EdgeMode } from '@lurn/core/warp';
import { boxHalf } from '@lurn/kernels';
import type { Pane } from '../drawer';
import type { Picture } from '../picture';
import { draftPane, type DraftLook } from './draft-pane';
import { colourTables, greyPixel, type Raster } from './raster';
import { Halver } from './sampled';

const [W, H] = [160, 96];
const coding = { range: 'tv', space: 'bt709', siting: 'left' } as const;

/** A smooth picture: what four samples make of it is what any good kernel makes of it. */
function smooth(width: number, height: number, phase: number, swing = 60): Uint8Array {
  return Uint8Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [(i % width) / width, Math.floor(i / width) / height];
    return 128 + swing * Math.sin(5 * x + phase) * Math.cos(4 * y - phase);
  });
}

function pictureOf(phase: number, swing = 60): Picture {
  return {
    frame: 0,
    y: planeOver(smooth(W, H, phase, swing), W, H),
    u: planeOver(smooth(W / 2, H / 2, phase + 1, 12), W / 2, H / 2),
    v: planeOver(smooth(W / 2, H / 2, phase + 2, 12), W / 2, H / 2),
    subsampling: { x: 2, y: 2 },
    bytes: 0,
  };
}

const look = (): DraftLook => ({ coding, tables: colourTables(coding, H), halver: new Halver() });
const blank = (width = W, height = H): Raster => ({ width, height, pixels: new Int32Array(width * height) });
const asWarp = (map: Matrix3 | Warp): Warp => ('kind' in map ? map : matrixWarp(map));
const paneOf = (map: Matrix3 | Warp, mode: EdgeMode = 'colour', more: Partial<Pane> = {}): Pane => ({
  ...{ x: 0, y: 0, width: W, height: H, toFrame: IDENTITY, frameSize: [W, H], quality: 'linear' },
  toLuma: asWarp(map),
  edges: { mode, colour: [16, 128, 128], donors: [] },
  ...more,
});
const bytes = (raster: Raster) => new Uint8Array(raster.pixels.buffer);

/** Red, green and blue as the render's own warp of the planes gives them. */
function exact(
  picture: Picture,
  map: Matrix3 | Warp,
  beyond: 'colour' | 'stretched' | 'mirrored',
): number[][] {
  const toLuma = asWarp(map);
  const half = { x: 2, y: 2 } as const;
  const luma = createPlane(W, H);
  warpPlane(picture.y, luma, toLuma, beyond === 'colour' ? 16 : beyond);
  const chroma = [picture.u, picture.v].map((plane) => {
    const out = createPlane(W / 2, H / 2);
    warpPlane(plane, out, chromaWarp(toLuma, half, 'left'), beyond === 'colour' ? 128 : beyond);
    return out;
  });
  return Array.from({ length: W * H }, (_, i) => {
    const [x, y] = [i % W, Math.floor(i / W)];
    const c = (y >> 1) * (W / 2) + (x >> 1);
    const l = (255 / 219) * (luma.data[i] - 16);
    const [u, v] = chroma.map((p) => (255 / 224) * (p.data[c] - 128));
    return [l + 1.5748 * v, l - 0.1873 * u - 0.4681 * v, l + 1.8556 * u];
  });
}

/** The most that a draft differs from the exact picture, away from where that fades at its rim. */
function farthest(drawn: Raster, wanted: number[][], map: Matrix3 | Warp, rim: number): number {
  const place = evaluatorOf(asWarp(map));
  const got = bytes(drawn);
  let most = 0;
  wanted.forEach((rgb, i) => {
    const [u, v] = [(i % W) + 0.5, Math.floor(i / W) + 0.5];
    const { x, y } = place.at(u, v);
    const off = Math.min(Math.abs(x), Math.abs(W - x), Math.abs(y), Math.abs(H - y));
    if (off < rim) return;
    rgb.forEach((value, k) => {
      most = Math.max(most, Math.abs(got[4 * i + k] - Math.max(0, Math.min(255, value))));
    });
  });
  return most;
}

const shaken = composeSimilarity({ x: -9, y: 7, rotation: 0.05, logScale: 0.06 }, { x: W / 2, y: H / 2 });

describe('drafts', () => {
  it.each(['colour', 'stretched', 'mirrored'] as const)(
    'show what the render shows, shaken, with %s edges',
    (mode) => {
      const raster = blank();
      draftPane(raster, pictureOf(0.3), paneOf(shaken, mode), look());
      expect(
        farthest(raster, exact(pictureOf(0.3), shaken, mode), shaken, mode === 'colour' ? 3 : 0),
      ).toBeLessThan(5);
    },
  );

  it.each<[string, Warp]>([
    ['a homography', matrixWarp([1.05, 0.04, -6, -0.03, 1.02, 4, 0.0009, -0.0006, 1])],
    [
      'a mesh',
      meshOver(W, H, 6, 4, (x, y) => ({ x: x - 4 + 3 * Math.sin(y / 20), y: y + 2 + 2 * Math.cos(x / 25) })),
    ],
  ])('show what the render shows through %s', (_, warp) => {
    for (const mode of ['colour', 'stretched'] as const) {
      const raster = blank();
      draftPane(raster, pictureOf(0.3), paneOf(warp, mode), look());
      const rim = mode === 'colour' ? 3 : 0;
      expect(farthest(raster, exact(pictureOf(0.3), warp, mode), warp, rim)).toBeLessThan(6);
    }
  });

  it('shrink without a shift, and turned pictures lie where they should', () => {
    for (const toLuma of [
      chain(scaling(3.2), translation(-50, -30)),
      chain(translation(W, 0), [0, -1, 0, 1, 0, 0, 0, 0, 1]),
      chain(translation(W, H), scaling(-1)),
    ] satisfies Matrix3[]) {
      const raster = blank();
      draftPane(raster, pictureOf(1.1), paneOf(toLuma), look());
      expect(farthest(raster, exact(pictureOf(1.1), toLuma, 'colour'), toLuma, 6)).toBeLessThan(6);
    }
  });

  it('draws in perspective what it draws affinely where there is hardly any', () => {
    const [affine, nearly] = [blank(), blank()];
    draftPane(affine, pictureOf(0), paneOf(shaken), look());
    const tilted = [...shaken] as unknown as number[];
    tilted[6] = 1e-9;
    draftPane(nearly, pictureOf(0), paneOf(tilted as unknown as Matrix3), look());
    const [a, b] = [bytes(affine), bytes(nearly)];
    // One level of luma and of chroma, as they are rounded, is up to three of red, green and blue.
    expect(a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0)).toBeLessThanOrEqual(3);
  });

  it('borrow what is missing from the first donor that shows it, in its matched exposure, and leave the rest', () => {
    const raster = blank();
    const donors = [
      { picture: pictureOf(0.3), toLuma: matrixWarp(translation(-16, 0)), offset: [10, 0, 0] as const },
      { picture: pictureOf(2, 0), toLuma: matrixWarp(translation(-20, 8)), offset: [0, 0, 0] as const },
    ];
    const toLuma = translation(-20, 0);
    const pane = paneOf(toLuma, 'borrowed');
    draftPane(raster, pictureOf(0.3), { ...pane, edges: { ...pane.edges!, donors } }, look());
    const got = bytes(raster);
    const red = (x: number, y: number) => got[4 * (y * W + x)];
    // Columns 16 to 19 come from the first donor, ten levels brighter; nobody shows the columns before.
    expect(red(17, 40)).toBeGreaterThan(8);
    expect([red(5, 40), red(15, 40)]).toEqual([0, 0]);
    const plain = blank();
    draftPane(plain, pictureOf(0.3), paneOf(translation(-16, 0)), look());
    const brighter = red(17, 40) - bytes(plain)[4 * (40 * W + 17)];
    expect(Math.abs(brighter - (10 * 255) / 219)).toBeLessThan(2.5);
  });

  it('shows nothing as squares, and leaves what surrounds the frame alone', () => {
    const raster = blank();
    raster.pixels.fill(7);
    const pane = paneOf(translation(-40, 0), 'transparent', { toFrame: translation(-10, -6), width: W - 4 });
    draftPane(raster, pictureOf(0), pane, look());
    const at = (x: number, y: number) => raster.pixels[y * W + x];
    expect([at(9, 50), at(50, 5), at(W - 3, 50)]).toEqual([7, 7, 7]);
    const squares = [greyPixel(0.36), greyPixel(0.46)];
    expect(squares).toContain(at(20, 50));
    expect(squares).toContain(at(28, 50));
    expect(at(20, 50)).not.toBe(at(28, 50));
    expect(squares).not.toContain(at(60, 50));
  });

  it('lays half of a picture over another, or half of its negative', () => {
    const under = blank();
    const half = blank();
    const negative = blank();
    for (const r of [under, half, negative]) draftPane(r, pictureOf(0), paneOf(IDENTITY), look());
    draftPane(half, pictureOf(0), paneOf(IDENTITY), look(), 'half');
    draftPane(negative, pictureOf(0), paneOf(IDENTITY), look(), 'half negative');
    const [a, b, c] = [under, half, negative].map(bytes);
    expect(Math.max(...a.map((v, i) => Math.abs(b[i] - v)))).toBeLessThanOrEqual(1);
    expect(Math.max(...c.filter((_, i) => i % 4 < 3).map((v) => Math.abs(v - 127)))).toBeLessThanOrEqual(1);
  });

  it('shows single samples as they are where the view is near', () => {
    const raster = blank();
    const picture = pictureOf(0.5);
    draftPane(raster, picture, paneOf(scaling(1 / 8), 'colour', { quality: 'nearest' }), look());
    const got = bytes(raster);
    expect(got.slice(0, 3)).toEqual(got.slice(4 * 7, 4 * 7 + 3));
    const l = (255 / 219) * (picture.y.data[1] - 16);
    const [u, v] = [picture.u, picture.v].map((p) => (255 / 224) * (p.data[1] - 128));
    expect(Math.abs(got[4 * 12] - (l + 1.5748 * v))).toBeLessThan(2);
    expect(Math.abs(got[4 * 12 + 2] - (l + 1.8556 * u))).toBeLessThan(2);
  });
});

describe('halving', () => {
  it('takes means of four, also at an odd rim, and keeps only so many planes', () => {
    const odd = planeOver(Uint8Array.of(10, 20, 30, 30, 40, 50, 70, 80, 90), 3, 3);
    expect([...boxHalf(odd).data]).toEqual([25, 40, 75, 90]);
    const halver = new Halver(2);
    const [a, b, c] = [1, 2, 3].map((v) => planeOver(new Uint8Array(16).fill(v), 4, 4));
    const first = halver.halved(a, 1);
    expect(halver.halved(a, 1)).toBe(first);
    halver.halved(b, 1);
    halver.halved(c, 1);
    expect(halver.halved(a, 1)).not.toBe(first);
    expect(halver.halved(a, 2).width).toBe(1);
  });
});
