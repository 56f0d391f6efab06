import fc from 'fast-check';
import { inverse, Matrix } from 'ml-matrix';
import {
  alignPlain,
  ALIGNMENT_SUMS,
  boxHalf,
  boxHalfPlain,
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
  kernelFloats,
  kernels,
  kernelsMissing,
  patchSums,
  PATCH_SUMS,
  plainly,
  sampleUpright,
  SeenPatch,
  SPLINE_TABLE,
  SURFACE_SUMS,
  surfaceReach,
  surfaceSums,
  surfaceSumsPlain,
  splineShaped,
  splineUpright,
  UPRIGHT,
  wideOf,
  type Allow,
  type BytePlane,
  type Shape,
} from './index.js';
import { splineByKernel } from './spline.js';
import { noise, real, seeds, upTo } from './testing/noise.js';

/** Every kernel beside the plain TypeScript that says what it does. */

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

describe('means of four', () => {
  it('are the same bits, wherever the plane lies and whatever its size', () => {
    fc.assert(
      fc.property(seeds, upTo(90, 1), upTo(40, 1), fc.boolean(), (seed, w, h, inside) => {
        const made = noise(w, h, seed);
        const plane = inside ? made : { ...made, data: made.data.slice() };
        const [fast, plain] = [boxHalf(plane), boxHalfPlain(plane)];
        expect({ ...fast, data: [...fast.data] }).toEqual({ ...plain, data: [...plain.data] });
      }),
      { numRuns: 200 },
    );
  });

  it('of a plane larger than the room there is are made in strips', () => {
    const plane = noise(2600, 2002, 3);
    expect(Buffer.compare(boxHalf(plane).data, boxHalfPlain(plane).data)).toBe(0);
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

  /** A grid as the kernel samples it, at an address; null where it leaves it to the plain way. */
  function byKernel(plane: BytePlane, x: number, y: number, shape: Shape | null, hw: number, hh: number) {
    const all = kernels()!;
    const grid = { hw, hh, stride: wideOf(hw) };
    const at = all.scratch + 65536;
    if (!splineByKernel(all, plane, x, y, shape, grid, all.scratch, at)) return null;
    return { at, values: all.floats.slice(at / 4, at / 4 + grid.stride * (2 * hh + 1)) };
  }

  it('agrees whatever the shape: a rounded phase shifts a sample by half of 1/1024', () => {
    let count = 0;
    fc.assert(
      fc.property(fc.record({ ...places, shape: shapes }), ({ hw, hh, x, y, seed, shape }) => {
        const plane = noise(71, 53, seed);
        const fast = byKernel(plane, x, y, shape, hw, hh);
        if (!fast) return;
        count++;
        const plain = new Float32Array(fast.values.length);
        splineShaped(plane, x, y, shape, { hw, hh, stride: wideOf(hw) }, plain);
        expect(Math.max(...plain.map((v, i) => Math.abs(v - fast.values[i])))).toBeLessThan(0.4);
      }),
      { numRuns: 600 },
    );
    expect(count).toBeGreaterThan(50);
  });

  it('is within two hundredths of a grey level where phases fall on the table’s', () => {
    const plane = noise(60, 60, 3);
    const seen = new Float32Array(wideOf(9) * 19);
    for (let phase = 0; phase < 1024; phase += 31) {
      const shape: Shape = [1, 0, 0, 1];
      const [x, y] = [30 + phase / 1024, 30.5 - phase / 1024];
      const fast = byKernel(plane, x, y, shape, 9, 9)!;
      splineShaped(plane, x, y, shape, { hw: 9, hh: 9, stride: wideOf(9) }, seen);
      expect(Math.max(...seen.map((v, i) => Math.abs(v - fast.values[i])))).toBeLessThan(0.02);
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

describe('aligning', () => {
  /** A smooth picture of which every place is known, at a shift. */
  const film = (seed: number, dx: number, dy: number): BytePlane => {
    const [width, height] = [90, 80];
    const data = kernelBytes(width * height)!;
    const wave = (k: number) => 0.11 + 0.23 * (((seed * 31 + k * 17) % 97) / 97);
    for (let j = 0; j < height; j++) {
      for (let i = 0; i < width; i++) {
        const [x, y] = [i + 0.5 - dx, j + 0.5 - dy];
        const v =
          Math.sin(wave(1) * x + wave(2) * y) + Math.sin(wave(3) * x - wave(4) * y) + Math.sin(wave(5) * y);
        data[j * width + i] = 127 + 40 * v;
      }
    }
    return { width, height, stride: width, data };
  };
  const [hw, hh] = [11, 9];
  const [n, m, wide] = [2 * hw + 1, 2 * hh + 1, wideOf(hw)];
  const whole = { i0: 0, i1: n, j0: 0, j1: m };

  /** Patch and derivatives at the middle of a picture, and what its alignment needs. */
  function patchOf(plane: BytePlane, allow: Allow) {
    const size = wide * m;
    const packed = new Float32Array(3 * size);
    const grid = { hw, hh, stride: wide };
    const [x, y] = [45.3, 40.2];
    const around = (dx: number, dy: number) => {
      const out = new Float32Array(size);
      splineUpright(plane, x + dx, y + dy, grid, out);
      return out;
    };
    const [l, r, t, b] = [around(-0.5, 0), around(0.5, 0), around(0, -0.5), around(0, 0.5)];
    packed.set(
      l.map((v, i) => r[i] - v),
      0,
    );
    packed.set(
      t.map((v, i) => b[i] - v),
      size,
    );
    packed.set(around(0, 0), 2 * size);
    const patch = new SeenPatch(hw, hh, packed);
    const { gx, gy, values } = patch.images;
    const image = (value: (p: number, u: number, v: number) => number) =>
      Array.from({ length: n * m }, (_, k) => {
        const [i, j] = [k % n, Math.floor(k / n)];
        return value(j * wide + i, i - hw, j - hh);
      });
    const turn = image((p, u, v) => u * gy[p] - v * gx[p]);
    const grow = image((p, u, v) => u * gx[p] + v * gy[p]);
    const moves =
      allow === 'shift'
        ? []
        : allow === 'similarity'
          ? [turn, grow]
          : [
              image((p, u) => u * gx[p]),
              image((p, _, v) => v * gx[p]),
              image((p, u) => u * gy[p]),
              image((p, _, v) => v * gy[p]),
            ];
    const images = [
      image((p) => gx[p]),
      image((p) => gy[p]),
      ...moves,
      image((p) => values[p]),
      image(() => 1),
    ];
    const normal = images.map((a) => images.map((b) => a.reduce((s, v, k) => s + v * b[k], 0)));
    const inverseNormal = Float64Array.from(inverse(new Matrix(normal)).to1DArray());
    return { patch, at: { x, y }, aim: { allow, window: whole, inverseNormal, limit: 3, settled: 0.03 } };
  }

  it('ends where the plain way ends, and where the picture went', () => {
    const allows = fc.constantFrom<Allow[]>('shift', 'similarity', 'affine');
    fc.assert(
      fc.property(seeds, allows, real(-1.2, 1.2), real(-1.2, 1.2), (seed, allow, dx, dy) => {
        const { patch, at, aim } = patchOf(film(seed, 0, 0), allow);
        const moved = film(seed, dx, dy);
        const guess = { ...at, shape: UPRIGHT };
        const spied = jest.spyOn(kernels()!, 'align');
        const fast = patch.align(moved, guess, aim);
        expect(spied.mock.results.map((r) => (r.value as number) < 2)).toEqual([true]);
        spied.mockRestore();
        const plain = alignPlain(moved, patch.images, guess, aim, new Float32Array(wide * m));
        expect(fast.converged).toBe(plain.converged);
        if (!fast.converged) return;
        expect(Math.hypot(fast.x - plain.x, fast.y - plain.y)).toBeLessThan(0.002);
        fast.shape.forEach((v, k) => expect(Math.abs(v - plain.shape[k])).toBeLessThan(5e-4));
        expect(Math.hypot(fast.x - at.x - dx, fast.y - at.y - dy)).toBeLessThan(0.06);
      }),
      { numRuns: 60 },
    );
  });

  it('tells the same of how it fits', () => {
    fc.assert(
      fc.property(seeds, real(-0.8, 0.8), (seed, dx) => {
        const { patch, at, aim } = patchOf(film(seed, 0, 0), 'similarity');
        const moved = film(seed, dx, 0.2);
        const found = patch.align(moved, { ...at, shape: UPRIGHT }, { ...aim, settled: 9 });
        const seen = new Float32Array(wide * m);
        alignPlain(moved, patch.images, { ...at, shape: UPRIGHT }, { ...aim, settled: 9 }, seen);
        expect(found.converged).toBe(true);
        const [fast, plain] = [new Float64Array(CELLS), new Float64Array(CELLS)];
        patch.sums(whole, fast);
        patchSums(patch.images.values, seen, wide, whole, plain);
        for (let k = 0; k < PATCH_SUMS; k++) expect(fast[k] / plain[k]).toBeCloseTo(1, 5);
        patch.residuals(whole, 0.9, 3, fast);
        cellResiduals(patch.images.values, seen, wide, whole, 0.9, 3, plain);
        fast.forEach((v, k) => expect(v / plain[k]).toBeCloseTo(1, 3));
        const all = kernels()!;
        const size = 4 * wide * m;
        const [p, out] = [all.patch, all.scratch];
        all.alignmentSums(p + 3 * size, p, p + size, p + 2 * size, hw, hh, out);
        alignmentSums(seen, patch.images, whole, plain);
        for (let k = 0; k < ALIGNMENT_SUMS; k++)
          expect(Math.abs(all.doubles[out / 8 + k] - plain[k])).toBeLessThan(
            1e-5 * 127 * n * m * 40 * (k > 1 ? 11 : 1),
          );
      }),
      { numRuns: 40 },
    );
  });

  it('goes the plain way where the patch reaches beyond the picture', () => {
    const plane = film(5, 0, 0);
    const { patch, aim } = patchOf(plane, 'shift');
    const guess = { x: 9.5, y: 40, shape: UPRIGHT };
    const seen = new Float32Array(wide * m);
    expect(patch.align(plane, guess, aim)).toEqual(alignPlain(plane, patch.images, guess, aim, seen));
  });
});

describe('cells of a patch', () => {
  it('have all places between them', () => {
    fc.assert(
      fc.property(upTo(40, 3), upTo(40, 3), upTo(9), upTo(9), (n, m, i0, j0) => {
        const sizes = cellSizes({ i0, i1: i0 + n, j0, j1: j0 + m });
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
        const off = fast.map((v, k) => Math.abs(v - plain[k]));
        expect(off.filter((d, k) => !(k % 3 < 2 ? d === 0 : d < (0.5 / 32) * 255 * places))).toHaveLength(0);
      }),
      { numRuns: 200 },
    );
  });
});

describe('sums over a part of a surface', () => {
  it('are those of the plain loop, to a thousandth of a grey level and sample', () => {
    fc.assert(
      fc.property(seeds, upTo(90, 1), upTo(20), real(-0.0004, 0.0004), (seed, count, from, lean) => {
        const plane = noise(120, 90, seed);
        const floats = (of: (i: number) => number) => kernelFloats(120).map((_, i) => of(i));
        const shared = (of: (i: number) => number) => {
          const out = kernelFloats(120);
          out.set(floats(of));
          return out;
        };
        const samples = {
          u: shared((i) => ((i % 11) - 5) / 9),
          v: shared((i) => (Math.floor(i / 11) - 5) / 9),
          values: shared((i) => (i * 37) % 200),
          gx: shared((i) => Math.sin(i + seed)),
          gy: shared((i) => Math.cos(i * 1.7)),
        };
        const m = [60, 4, 60, -3, 45, 45, 60 * lean, -40 * lean, 1];
        const [a, b] = [new Float64Array(SURFACE_SUMS + 2), new Float64Array(SURFACE_SUMS + 2)];
        const reach = surfaceReach(plane, samples);
        expect(reach).not.toBeNull();
        surfaceSums(plane, samples, reach, from, from + count, m, 90, 110, a, 2);
        surfaceSumsPlain(plane, samples, from, from + count, m, 90, 110, b, 2);
        // A place is told by floats: to a few hundred-thousandths of a sample, of steps of up to 255 grey levels.
        const bounds = [...Array<number>(8).fill(0.03), 0.03, 12, 6].map((v) => v * count);
        bounds.forEach((bound, k) => expect(Math.abs(a[k + 2] - b[k + 2])).toBeLessThan(bound));
      }),
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
