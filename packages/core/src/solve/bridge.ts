import { bandedMatrix, factorise, solveFactorised } from '../geometry/banded.js';

/** Frames in which the speed at either side of a gap dies away towards the mean speed across it. */
const FADE = 8;

/**
 * Fills unknown values in place. A gap is bridged by the curve that bends least between what is known on either side
 * (a spline under tension, Schweikert 1966): it goes on with the speed before, comes in with the speed after, and runs
 * straight in between where the gap is long. Before the first and after the last known value that value is held.
 *
 * @param known  1 where a value is known; nothing is done where none is
 * Cost: linear in values.
 */
export function bridgeGaps(values: Float64Array, known: ArrayLike<number | boolean>): void {
  let before = -1;
  for (let i = 0; i <= values.length; i++) {
    if (i < values.length && !known[i]) continue;
    if (before < 0 && i === values.length) return;
    if (before < 0) values.fill(values[i], 0, i);
    else if (i === values.length) values.fill(values[before], before + 1);
    else if (i > before + 1) bridge(values, known, before, i);
    before = i;
  }
}

const BEND = [1, -2, 1] as const;

/** The values between a and b that make the sum of squared second differences, and of strays from the mean speed, least. */
function bridge(values: Float64Array, known: ArrayLike<number | boolean>, a: number, b: number): void {
  const n = b - a - 1;
  const matrix = bandedMatrix(n, 2);
  const right = new Float64Array(n);
  const speed = (values[b] - values[a]) / (b - a);
  const unknown = (i: number) => i > a && i < b;
  const term = (first: number, taps: readonly number[], target: number, weight: number) => {
    let rest = target;
    taps.forEach((t, k) => (rest -= unknown(first + k) ? 0 : t * values[first + k]));
    taps.forEach((t, k) => {
      if (!unknown(first + k)) return;
      const i = first + k - a - 1;
      right[i] += weight * t * rest;
      for (let j = 0; j <= k; j++) {
        if (unknown(first + j)) matrix.data[i * 3 + k - j] += weight * t * taps[j];
      }
    });
  };
  for (let i = a - 1; i <= b - 1; i++) {
    const there = i >= 0 && i + 2 < values.length;
    if (there && (i >= a || known[i]) && (i + 2 <= b || known[i + 2])) term(i, BEND, 0, 1);
  }
  for (let i = a; i < b; i++) term(i, [-1, 1], speed, 1 / FADE ** 2);
  factorise(matrix);
  solveFactorised(matrix, right);
  values.set(right, a + 1);
}
