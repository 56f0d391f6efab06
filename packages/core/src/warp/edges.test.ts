import fc from 'fast-check';
import { translation } from '../geometry/matrix.js';
import { matrixWarp } from '../geometry/warp.js';
import { createPlane, type Plane } from '../picture/plane.js';
import { fold } from './edges.js';
import { warpPlane } from './warp-plane.js';

const ramp = (width: number, height: number): Plane => {
  const plane = createPlane(width, height);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) plane.data[y * plane.stride + x] = 4 * x;
  return plane;
};

describe('beyond the picture', () => {
  it('a folded place lies within, and inside nothing is moved', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -500, max: 500, noNaN: true }),
        fc.constantFrom('stretched' as const, 'mirrored' as const),
        (x, how) => {
          const at = fold(x, 40, how);
          // But for rounding of the smallest numbers there are.
          expect(at).toBeGreaterThan(-1e-9);
          expect(at).toBeLessThan(40 + 1e-9);
          if (x >= 0 && x <= 40) expect(at - x).toBe(0);
        },
      ),
    );
  });

  it('mirrors go to and fro, and the stretched edge stays', () => {
    expect([-3, 43, 83, -43].map((x) => fold(x, 40, 'mirrored'))).toEqual([3, 37, 3, 37]);
    expect([-3, 43, 900].map((x) => fold(x, 40, 'stretched'))).toEqual([0, 40, 40]);
  });

  it('is drawn as it is folded', () => {
    const source = ramp(40, 20);
    const row = (beyond: number | 'stretched' | 'mirrored') => {
      const out = createPlane(40, 20);
      warpPlane(source, out, matrixWarp(translation(-10, 0)), beyond);
      return [...out.data.subarray(0, 20)];
    };
    expect(row('mirrored').slice(1, 9)).toEqual([8, 7, 6, 5, 4, 3, 2, 1].map((x) => 4 * x));
    expect(row('stretched').slice(0, 9)).toEqual(Array(9).fill(0));
    expect(row(77).slice(0, 8)).toEqual(Array(8).fill(77));
    for (const beyond of ['mirrored', 'stretched', 77] as const)
      expect(row(beyond).slice(12)).toEqual([2, 3, 4, 5, 6, 7, 8, 9].map((x) => 4 * x));
  });
});
