import fc from 'fast-check';
import { framingMatrix, neededZoom, neededZoomThrough, showsEdge } from '../framing/framing.js';
import { apply, invert, multiply, type Matrix3 } from './matrix.js';
import { composeSimilarity } from './similarity.js';
import { after, before, matrixWarp, meshOver, NOWHERE, evaluatorOf, scaleRange, type Warp } from './warp.js';

const LEAN: Matrix3 = [1.1, 0.05, 4, -0.02, 0.95, -3, 0.0004, -0.0002, 1];
const SIZE = { width: 320, height: 180 };
const bent = meshOver(320, 180, 8, 6, (x, y) => ({
  x: x + 6 * Math.sin(y / 40),
  y: y * 1.02 - 4 * Math.cos(x / 50),
}));

/** The scale by going a little way along and down. */
function measuredScale(warp: Warp, x: number, y: number): number {
  const place = evaluatorOf(warp);
  const h = 1e-4;
  const [p, q, r] = [place.at(x, y), place.at(x + h, y), place.at(x, y + h)];
  return Math.sqrt(Math.abs((q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x))) / h;
}

describe.each<[string, Warp]>([
  [
    'an affine matrix',
    matrixWarp(composeSimilarity({ x: 3, y: 4, rotation: 0.2, logScale: 0.3 }, { x: 9, y: 8 })),
  ],
  ['perspective', matrixWarp(LEAN)],
  ['a mesh', bent],
])('%s', (_, warp) => {
  const inside = fc.record({
    x: fc.double({ min: 1, max: 318, noNaN: true }),
    y: fc.double({ min: 1, max: 178, noNaN: true }),
  });

  it('gives a row of places as it gives each of them', () => {
    const [xs, ys] = [new Float64Array(320), new Float64Array(320)];
    evaluatorOf(warp).row(57.5, 0.5, 320.5, xs, ys);
    for (let i = 0; i < 320; i += 7) {
      const p = evaluatorOf(warp).at(i + 0.5, 57.5);
      expect(xs[i]).toBeCloseTo(p.x, 8);
      expect(ys[i]).toBeCloseTo(p.y, 8);
    }
  });

  it('tells the local scale that it has', () => {
    fc.assert(
      fc.property(inside, ({ x, y }) => {
        const told = evaluatorOf(warp).scaleAt(x, y);
        // On a cell's border a mesh has two scales.
        const near = [0.37, -0.37].some((d) => Math.abs(measuredScale(warp, x + d, y + d) / told - 1) < 0.02);
        expect(near).toBe(true);
      }),
    );
  });

  it('goes on after one map, and before another', () => {
    const map = composeSimilarity({ x: -2, y: 5, rotation: -0.1, logScale: 0.2 }, { x: 50, y: 60 });
    fc.assert(
      fc.property(inside, ({ x, y }) => {
        const p = evaluatorOf(warp).at(x, y);
        const then = apply(map, p.x, p.y);
        const both = evaluatorOf(after(map, warp)).at(x, y);
        expect(Math.hypot(both.x - then.x, both.y - then.y)).toBeLessThan(1e-8);
        const first = apply(invert(map), x, y);
        const back = evaluatorOf(before(warp, map)).at(first.x, first.y);
        expect(Math.hypot(back.x - p.x, back.y - p.y)).toBeLessThan(1e-8);
      }),
    );
  });
});

describe('places and scales', () => {
  it('of a mesh of a homography are those of the homography, the nearer the finer it is', () => {
    const off = (cells: number) => {
      const mesh = evaluatorOf(meshOver(320, 180, cells, cells, (x, y) => apply(LEAN, x, y)));
      const p = mesh.at(101, 77);
      const q = apply(LEAN, 101, 77);
      return Math.hypot(p.x - q.x, p.y - q.y);
    };
    expect(off(4)).toBeLessThan(0.5);
    expect(off(64)).toBeLessThan(off(4) / 50);
  });

  it('behind the camera are nowhere', () => {
    const m: Matrix3 = [1, 0, 0, 0, 1, 0, -0.01, 0, 1];
    expect(evaluatorOf(matrixWarp(m)).at(200, 5)).toEqual({ x: NOWHERE, y: NOWHERE });
    const [xs, ys] = [new Float64Array(4), new Float64Array(4)];
    evaluatorOf(matrixWarp(m)).row(0, 98.5, 102.5, xs, ys);
    expect([...xs].map((x) => x === NOWHERE)).toEqual([false, false, true, true]);
  });

  it('range over the picture where they differ, and do not where they do not', () => {
    const even = scaleRange(matrixWarp([2, 0, 0, 0, 2, 0, 0, 0, 1]), 320, 180);
    expect(even.least).toBe(even.most);
    const { least, most } = scaleRange(matrixWarp(LEAN), 320, 180);
    expect(most / least).toBeGreaterThan(1.2);
  });
});

describe('the needed zoom through a warp', () => {
  it('is the exact one for a matrix', () => {
    const correction = multiply(
      LEAN,
      composeSimilarity({ x: 9, y: 2, rotation: 0.03, logScale: 0 }, { x: 160, y: 90 }),
    );
    const shift = { shiftX: 3, shiftY: -2 };
    expect(neededZoomThrough(matrixWarp(invert(correction)), shift, SIZE)).toBeCloseTo(
      neededZoom(correction, shift, SIZE),
      12,
    );
  });

  it('is minimal for a mesh: at it no border place lies outside, at 0.1 % less one does', () => {
    const shift = { shiftX: 0, shiftY: 0 };
    const zoom = neededZoomThrough(bent, shift, SIZE);
    expect(zoom).toBeGreaterThan(1.02);
    expect(zoom).toBeLessThan(1.3);
    const outside = (z: number) => {
      const back = invert(framingMatrix({ zoom: z, ...shift }, SIZE));
      const place = evaluatorOf(before(bent, back));
      let most = 0;
      for (let i = 0; i <= 640; i++) {
        for (const [x, y] of [
          [i / 2, 0],
          [i / 2, 180],
          [0, (i * 180) / 640],
          [320, (i * 180) / 640],
        ]) {
          const p = place.at(x, y);
          most = Math.max(most, -p.x, -p.y, p.x - 320, p.y - 180);
        }
      }
      return most;
    };
    expect(outside(zoom)).toBeLessThan(0.01);
    expect(outside(zoom * 0.999)).toBeGreaterThan(0);
    expect(showsEdge(zoom, zoom)).toBe(false);
  });

  it('of a mesh that stands for a matrix is the matrix’s', () => {
    const back = invert(
      composeSimilarity({ x: 12, y: -7, rotation: 0.04, logScale: 0.02 }, { x: 160, y: 90 }),
    );
    const mesh = meshOver(320, 180, 5, 5, (x, y) => apply(back, x, y));
    const shift = { shiftX: 0, shiftY: 0 };
    expect(neededZoomThrough(mesh, shift, SIZE)).toBeCloseTo(neededZoom(invert(back), shift, SIZE), 6);
  });
});
