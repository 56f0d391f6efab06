import { splineShaped } from '@lurn/kernels';
import fc from 'fast-check';
import { randomNumbers } from '../testing/footage.js';
import { planeOver, type Plane } from './plane.js';
import { multiplyShapes, sampleGrid, UPRIGHT, type Shape } from './sampling.js';

const [W, H] = [60, 44];
const of = (value: (x: number, y: number) => number): Plane =>
  planeOver(
    Uint8Array.from({ length: W * H }, (_, i) => value((i % W) + 0.5, Math.floor(i / W) + 0.5)),
    W,
    H,
  );
const random = randomNumbers(7);
const noise = of(() => 255 * random());
const grid = (plane: Plane, x: number, y: number, hw = 4, hh = 3) => {
  const out = new Float32Array((2 * hw + 1) * (2 * hh + 1));
  sampleGrid(plane, x, y, hw, hh, out);
  return out;
};
const shaped = (plane: Plane, x: number, y: number, shape: Shape, hw = 4, hh = 3) => {
  const out = new Float32Array((2 * hw + 1) * (2 * hh + 1));
  splineShaped(plane, x, y, shape, { hw, hh, stride: 2 * hw + 1 }, out);
  return out;
};
const farthest = (a: Float32Array, b: Float32Array) =>
  a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0);

describe('sampling patches', () => {
  it('finds a slope where it is: centres of samples lie at half pixels', () => {
    const slope = of((x, y) => 2 * x + 2 * y);
    fc.assert(
      fc.property(
        fc.double({ min: 12, max: 40, noNaN: true }),
        fc.double({ min: 10, max: 30, noNaN: true }),
        (x, y) => {
          const values = grid(slope, x, y);
          values.forEach((v, q) => {
            const [u, w] = [(q % 9) - 4, Math.floor(q / 9) - 3];
            expect(v).toBeCloseTo(2 * (x + u) + 2 * (y + w), 3);
          });
        },
      ),
      { numRuns: 40 },
    );
  });

  it('is the same upright, whichever way it is sampled, to a table’s step', () => {
    for (const [x, y] of [
      [20.3, 17.9],
      [31.5, 22.5],
      [2.2, 3.4],
      [58, 42],
    ]) {
      // A phase of the table is off by half a step at the most, and values change by 255 a sample.
      expect(farthest(grid(noise, x, y), shaped(noise, x, y, UPRIGHT))).toBeLessThan(0.4);
    }
  });

  it('repeats the nearest sample beyond the picture', () => {
    const flat = of((x) => (x < 1 ? 200 : 40));
    expect(grid(flat, -20, 10, 2, 2).every((v) => Math.abs(v - 200) < 1e-9)).toBe(true);
    expect(shaped(flat, W + 30, -9, [0.7, 0.7, -0.7, 0.7], 2, 2).every((v) => Math.abs(v - 40) < 1e-9)).toBe(
      true,
    );
  });

  it('turns and scales the grid about its centre', () => {
    const slope = of((x, y) => 2 * x + 2 * y);
    const shape: Shape = [0.9, -0.4, 0.5, 1.1];
    shaped(slope, 30, 22, shape).forEach((v, q) => {
      const [u, w] = [(q % 9) - 4, Math.floor(q / 9) - 3];
      const x = 30 + shape[0] * u + shape[1] * w;
      const y = 22 + shape[2] * u + shape[3] * w;
      expect(Math.abs(v - (2 * x + 2 * y))).toBeLessThan(0.01);
    });
  });

  it('chains shapes as it chains maps', () => {
    const [a, b]: Shape[] = [
      [0.9, -0.4, 0.5, 1.1],
      [1.2, 0.1, -0.3, 0.8],
    ];
    const both = multiplyShapes(a, b);
    const apply = (s: Shape, [u, v]: readonly [number, number]) =>
      [s[0] * u + s[1] * v, s[2] * u + s[3] * v] as const;
    const [p, q] = [apply(both, [3, -2]), apply(a, apply(b, [3, -2]))];
    expect(p[0]).toBeCloseTo(q[0], 12);
    expect(p[1]).toBeCloseTo(q[1], 12);
    expect(multiplyShapes(a, UPRIGHT)).toBe(a);
  });
});
