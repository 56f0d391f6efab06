import fc from 'fast-check';
import {
  kernelBytes,
  kernelDoubles,
  kernelFloats,
  plainly,
  rasterRow,
  rasterRowBetween,
  rasterRowBetweenPlain,
  rasterRowPlain,
  type Rgba,
} from './index.js';

/** A raster of noise, no colour more than it covers. */
function noise(width: number, height: number, seed: number): Rgba {
  const data = kernelBytes(4 * width * height)!;
  let a = seed + 1;
  const next = () => (a = (Math.imul(a, 1664525) + 1013904223) >>> 0) >>> 24;
  for (let k = 0; k < data.length; k += 4) {
    const alpha = (data[k + 3] = next());
    for (let c = 0; c < 3; c++) data[k + c] = (next() * alpha) >> 8;
  }
  return { width, height, data };
}

const real = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const N = 33;

const furthest = (a: Float32Array, b: Float32Array) => Math.max(...a.map((v, k) => Math.abs(v - b[k])));

describe('a row of a raster', () => {
  it('is the same by the kernel as by the plain loop, to a part of a level', () => {
    let seen = 0;
    fc.assert(
      fc.property(
        fc.nat(1000),
        fc.tuple(real(-8, 40), real(-8, 30), real(-1.4, 1.4), real(-1.4, 1.4)),
        fc.constantFrom(1, 0.5, 0.25),
        fc.nat(6),
        (seed, [x, y, dx, dy], shrink, shift) => {
          const raster = noise(40, 30, seed);
          const [xs, ys] = [kernelDoubles(N), kernelDoubles(N)];
          for (let i = 0; i < N; i++) {
            xs[i] = x + i * dx;
            ys[i] = y + i * dy;
          }
          const [a, b] = [kernelFloats(4 * N), new Float32Array(4 * N)];
          rasterRow(raster, xs, ys, N, shrink, shift, a);
          rasterRowPlain(raster, xs, ys, N, shrink, shift, b);
          expect(furthest(a, b)).toBeLessThan(0.3 / 255);
          seen += b.filter((v) => v > 0).length;
        },
      ),
      { numRuns: 150 },
    );
    expect(seen).toBeGreaterThan(5000);
  });

  it('between four samples it is the same by the kernel as by the plain loop, and meets the samples', () => {
    fc.assert(
      fc.property(
        fc.nat(1000),
        fc.tuple(real(-8, 40), real(-8, 30), real(-1.4, 1.4), real(-1.4, 1.4)),
        (seed, [x, y, dx, dy]) => {
          const raster = noise(40, 30, seed);
          const [xs, ys] = [kernelDoubles(N), kernelDoubles(N)];
          for (let i = 0; i < N; i++) {
            xs[i] = x + i * dx;
            ys[i] = y + i * dy;
          }
          // Whole samples as they are.
          [xs[0], ys[0]] = [12.5, 7.5];
          const [a, b] = [kernelFloats(4 * N), new Float32Array(4 * N)];
          rasterRowBetween(raster, xs, ys, N, 1, 0, a);
          rasterRowBetweenPlain(raster, xs, ys, N, 1, 0, b);
          expect(furthest(a, b)).toBeLessThan(1e-3);
          for (let c = 0; c < 4; c++) expect(a[c] * 255).toBeCloseTo(raster.data[4 * (7 * 40 + 12) + c], 3);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('has nothing where a place is far away, or none, and no colour beyond what it covers', () => {
    const raster = noise(20, 20, 4);
    const [xs, ys] = [kernelDoubles(4), kernelDoubles(4)];
    xs.set([-1e6, NaN, 1e9, 10.3]);
    ys.set([5, 5, NaN, 9.6]);
    for (const row of [
      rasterRow,
      rasterRowBetween,
      rasterRowBetweenPlain,
      (...args: Parameters<typeof rasterRow>) => plainly(() => rasterRow(...args)),
    ]) {
      const out = kernelFloats(16).fill(9);
      row(raster, xs, ys, 4, 1, 0, out);
      expect([...out.subarray(0, 12)]).toEqual(Array<number>(12).fill(0));
      const [r, g, b, a] = out.subarray(12);
      expect(Math.max(r, g, b)).toBeLessThanOrEqual(a);
      expect(a).toBeGreaterThan(0);
    }
  });

  it('goes on by plain TypeScript where the raster lies elsewhere', () => {
    const raster = noise(20, 20, 5);
    const away = { ...raster, data: raster.data.slice() };
    const [xs, ys] = [kernelDoubles(1).fill(7.2), kernelDoubles(1).fill(8.9)];
    const [a, b] = [kernelFloats(4), new Float32Array(4)];
    rasterRow(away, xs, ys, 1, 1, 0, a);
    rasterRowPlain(raster, xs, ys, 1, 1, 0, b);
    expect([...a]).toEqual([...b]);
  });
});
