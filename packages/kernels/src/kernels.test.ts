import fc from 'fast-check';
import {
  ALIGNMENT_SUMS,
  alignmentSums,
  cellResiduals,
  CELLS,
  cellSizes,
  correlationPlain,
  correlationSums,
  halve,
  halvePlain,
  isKernelBytes,
  kernelBytes,
  kernels,
  kernelsMissing,
  patchSums,
  PATCH_SUMS,
  plainly,
  sampleUpright,
  SeenPatch,
  SPLINE_TABLE,
  splineShaped,
  splineUpright,
  wideOf,
  type BytePlane,
  type Shape,
} from './index.js';

/** Every kernel beside the plain TypeScript that says what it does. */

/** A picture of noise in the kernels' memory, its rows longer than it is wide. */
function noise(width: number, height: number, seed: number): BytePlane {
  const stride = width + (seed % 5);
  const data = kernelBytes(stride * height)!;
  let a = seed + 1;
  for (let i = 0; i < data.length; i++) {
    a = (Math.imul(a, 1664525) + 1013904223) >>> 0;
    data[i] = a >>> 24;
  }
  return { width, height, stride, data };
}

const seeds = fc.integer({ min: 0, max: 1e6 });
const upTo = (max: number, min = 0) => fc.integer({ min, max });
/** Evenly between: `fc.double` prefers numbers next to zero. */
const real = (min: number, max: number) => upTo(1e6).map((v) => min + ((max - min) * v) / 1e6);
/** About upright: turned, grown and sheared as patches are. */
const shapes: fc.Arbitrary<Shape> = fc.tuple(
  real(0.7, 1.4),
  real(-0.5, 0.5),
  real(-0.5, 0.5),
  real(0.7, 1.4),
);

it('are used here', () => {
  expect(kernelsMissing()).toBeNull();
  expect(isKernelBytes(kernelBytes(9)!)).toBe(true);
  expect(isKernelBytes(new Uint8Array(9))).toBe(false);
  expect(plainly(() => [kernels(), kernelBytes(9), isKernelBytes(new Uint8Array(9))])).toEqual([
    null,
    null,
    false,
  ]);
  expect(kernels()).not.toBeNull();
});

describe('halving', () => {
  it('gives the same bits, whatever part is asked for', () => {
    fc.assert(
      fc.property(
        seeds,
        upTo(90, 2),
        upTo(40, 2),
        fc.array(real(0, 1), { minLength: 4, maxLength: 4 }),
        (seed, w, h, part) => {
          const plane = noise(w, h, seed);
          const [ow, oh] = [(w + 1) >> 1, (h + 1) >> 1];
          const [a, b] = [part[0], part[1]].sort((p, q) => p - q).map((p) => Math.round(p * ow));
          const [c, d] = [part[2], part[3]].sort((p, q) => p - q).map((p) => Math.round(p * oh));
          const fast = { width: ow, height: oh, stride: ow, data: kernelBytes(ow * oh)!.fill(7) };
          const plain = { ...fast, data: new Uint8Array(ow * oh).fill(7) };
          halve(plane, fast, a, c, b, d);
          halvePlain(plane, plain, a, c, b, d);
          expect([...fast.data]).toEqual([...plain.data]);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('sampling by the spline', () => {
  const places = { hw: upTo(13, 1), hh: upTo(11, 1), x: real(-4, 75), y: real(-4, 57), seed: seeds };

  it('agrees upright, inside and at the rim', () => {
    fc.assert(
      fc.property(fc.record(places), ({ hw, hh, x, y, seed }) => {
        const plane = noise(71, 53, seed);
        const grid = { hw, hh, stride: 2 * hw + 1 };
        const fast = new Float32Array(grid.stride * (2 * hh + 1));
        const plain = new Float32Array(fast.length);
        sampleUpright(plane, x, y, grid, fast);
        splineUpright(plane, x, y, grid, plain);
        expect(Math.max(...fast.map((v, i) => Math.abs(v - plain[i])))).toBeLessThan(1e-3);
      }),
      { numRuns: 200 },
    );
  });

  it('agrees in sums and in what is left, whatever the shape', () => {
    let byKernel = 0;
    fc.assert(
      fc.property(fc.record({ ...places, shape: fc.option(shapes) }), ({ hw, hh, x, y, seed, shape }) => {
        const plane = noise(71, 53, seed);
        const [n, m, wide] = [2 * hw + 1, 2 * hh + 1, wideOf(hw)];
        const packed = new Float32Array(3 * wide * m);
        for (let part = 0; part < 3; part++) {
          for (let q = 0; q < n * m; q++)
            packed[part * wide * m + Math.floor(q / n) * wide + (q % n)] =
              part < 2 ? ((q * 7919 + part) % 61) - 30 : (q * 104729 + seed) % 256;
        }
        const patch = new SeenPatch(hw, hh, packed);
        const sampled = jest.spyOn(kernels()!, shape ? 'splineShaped' : 'splineUpright');
        patch.sample(plane, x, y, shape);
        byKernel += sampled.mock.calls.length;
        sampled.mockRestore();
        const { images } = patch;
        const seen = new Float32Array(wide * m);
        if (shape) splineShaped(plane, x, y, shape, images, seen);
        else splineUpright(plane, x, y, images, seen);
        const whole = { i0: 0, i1: n, j0: 0, j1: m };
        const part = { i0: 1, i1: n, j0: 0, j1: m - 1 };
        for (const window of [whole, part]) {
          const [a, b] = [new Float64Array(ALIGNMENT_SUMS), new Float64Array(ALIGNMENT_SUMS)];
          patch.alignment(window, a);
          alignmentSums(seen, images, window, b);
          // A rounded phase shifts a sample by half of 1/1024 at the most: under a tenth of a grey level in noise.
          const places = n * m;
          [30, 30, 30 * hw, 30 * hh, 30 * hw, 30 * hh, 256, 1].forEach((most, k) =>
            expect(Math.abs(a[k] - b[k])).toBeLessThan(0.15 * most * places),
          );
          const [c, d] = [new Float64Array(PATCH_SUMS), new Float64Array(PATCH_SUMS)];
          patch.sums(window, c);
          patchSums(images.values, seen, wide, window, d);
          [1e-4, 0.03, 0.15, 80, 40].forEach((most, k) =>
            expect(Math.abs(c[k] - d[k])).toBeLessThan(most * places),
          );
          const [e, f] = [new Float64Array(CELLS), new Float64Array(CELLS)];
          patch.residuals(window, 0.9, 3, e);
          cellResiduals(images.values, seen, wide, window, 0.9, 3, f);
          e.forEach((v, k) => expect(Math.abs(v - f[k])).toBeLessThan(80 * places));
        }
      }),
      { numRuns: 300 },
    );
    expect(byKernel).toBeGreaterThan(50);
  });

  it('is within two hundredths of a grey level where phases fall on the table’s', () => {
    const plane = noise(60, 60, 3);
    const patch = new SeenPatch(9, 9, new Float32Array(3 * wideOf(9) * 19).fill(1));
    const one = new Float64Array(ALIGNMENT_SUMS);
    const seen = new Float32Array(wideOf(9) * 19);
    for (let phase = 0; phase < 1024; phase += 31) {
      const shape: Shape = [1, 0, 0, 1];
      const [x, y] = [30 + phase / 1024, 30.5 - phase / 1024];
      patch.sample(plane, x, y, shape);
      splineShaped(plane, x, y, shape, patch.images, seen);
      patch.alignment({ i0: 4, i1: 5, j0: 7, j1: 8 }, one);
      expect(Math.abs(one[7] - seen[7 * wideOf(9) + 4])).toBeLessThan(0.02);
    }
  });

  it('has weights that sum to one', () => {
    for (let p = 0; p <= 1024; p++) {
      const sum =
        SPLINE_TABLE[4 * p] + SPLINE_TABLE[4 * p + 1] + SPLINE_TABLE[4 * p + 2] + SPLINE_TABLE[4 * p + 3];
      expect(sum).toBeCloseTo(1, 12);
    }
  });
});

describe('cells of a patch', () => {
  it('have all places between them', () => {
    fc.assert(
      fc.property(upTo(40, 3), upTo(40, 3), upTo(9), upTo(9), (n, m, i0, j0) => {
        const sizes = new Float64Array(CELLS);
        cellSizes({ i0, i1: i0 + n, j0, j1: j0 + m }, sizes);
        expect(sizes.reduce((s, v) => s + v, 0)).toBe(n * m);
      }),
    );
  });
});

describe('correlation', () => {
  it('sums the picture exactly, and the patch to a part of a grey level', () => {
    fc.assert(
      fc.property(seeds, upTo(20, 1), upTo(20, 1), upTo(9, 1), upTo(9, 1), (seed, hw, hh, columns, rows) => {
        const plane = noise(60, 52, seed);
        const places = (2 * hw + 1) * (2 * hh + 1);
        const values = Float32Array.from(
          { length: places },
          (_, q) => 255 * Math.abs(Math.sin(q * 12.9898 + seed)),
        );
        const [fast, plain] = [new Float64Array(3 * columns * rows), new Float64Array(3 * columns * rows)];
        const patch = { hw, hh, values };
        correlationSums(plane, patch, 2, 1, columns, rows, fast);
        correlationPlain(plane, patch, 2, 1, columns, rows, plain);
        for (let k = 0; k < fast.length; k++) {
          if (k % 3 < 2) expect(fast[k]).toBe(plain[k]);
          else expect(Math.abs(fast[k] - plain[k])).toBeLessThan((0.5 / 32) * 255 * places);
        }
      }),
      { numRuns: 200 },
    );
  });
});

describe('memory', () => {
  it('is there for as much as there is, and says so', () => {
    const held = Array.from({ length: 300 }, () => kernelBytes(2 ** 21));
    const got = held.filter((b) => b !== null);
    expect(got.length).toBeGreaterThan(64);
    expect(got.length).toBeLessThan(128);
    const starts = got.map((b) => b.byteOffset).sort((a, b) => a - b);
    expect(starts.every((s, i) => i === 0 || s - starts[i - 1] >= 2 ** 21)).toBe(true);
    expect(kernelBytes(2 ** 21)).toBeNull();
    expect(kernelBytes(1000)).not.toBeNull();
  });
});
