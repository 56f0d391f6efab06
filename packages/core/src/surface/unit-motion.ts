import { Matrix } from 'ml-matrix';
import { normalisedAt } from '../geometry/homography.js';
import type { Matrix3, Point } from '../geometry/matrix.js';

/** Homographies from a surface's units (about its middle, half its diagonal long) to a picture. */

/** Where a homography takes a place. */
export function placeAt(m: ArrayLike<number>, x: number, y: number): Point {
  const w = 1 / (m[6] * x + m[7] * y + m[8]);
  return { x: (m[0] * x + m[1] * y + m[2]) * w, y: (m[3] * x + m[4] * y + m[5]) * w };
}

/** How it moves what is near a place: rows are x and y. */
export function jacobianAt(m: Matrix3, x: number, y: number): Matrix {
  const w = 1 / (m[6] * x + m[7] * y + m[8]);
  const p = placeAt(m, x, y);
  return new Matrix([
    [(m[0] - p.x * m[6]) * w, (m[1] - p.x * m[7]) * w],
    [(m[3] - p.y * m[6]) * w, (m[4] - p.y * m[7]) * w],
  ]);
}

/** The area that a homography of units magnifies by in its middle. */
export function areaAt(m: Matrix3): number {
  const [a, b, x, d, e, y, g, h] = m;
  return Math.abs((a - x * g) * (e - y * h) - (b - x * h) * (d - y * g));
}

/** Source pixels of the picture as samples of a level. */
export const toLevel = (m: Matrix3, s: number): Matrix3 => [
  ...([m[0] * s, m[1] * s, m[2] * s, m[3] * s, m[4] * s, m[5] * s] as const),
  ...([m[6], m[7], m[8]] as const),
];

/** The same with weight 1 in the middle. */
export const normalised = (m: Matrix3): Matrix3 => normalisedAt(m, { x: 0, y: 0 });

/** A step of eight numbers, or a part of it, as a homography. */
export function homographyOf(p: Float64Array, share: number): Matrix3 {
  const [a, b, c, d, e, f, g, h] = p.map((v) => v * share);
  return [1 + a, b, c, d, 1 + e, f, g, h, 1];
}

/** How far the farthest corner goes by a step, in samples. */
export function longest(m: Matrix3, change: Float64Array, corners: readonly Point[]): number {
  const step = homographyOf(change, 1);
  let far = 0;
  for (const { x, y } of corners) {
    const [p, q] = [placeAt(m, x, y), placeAt(step, x, y)];
    const r = placeAt(m, q.x, q.y);
    far = Math.max(far, Math.hypot(r.x - p.x, r.y - p.y));
  }
  return far;
}
