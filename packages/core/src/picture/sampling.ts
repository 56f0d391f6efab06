import { CUBIC_PHASES, SPLINE_TABLE, splineWeights } from './kernel.js';
import type { Plane } from './plane.js';

const wx = new Float64Array(4);
const wy = new Float64Array(4);
let rows = new Float64Array(0);

/**
 * Samples a grid of unit steps centred on (cx, cy), lightly smoothed by the cubic B-spline; beyond the plane
 * the nearest sample is repeated.
 *
 * @param cx, cy  centre of the grid, in corner-based coordinates of `plane`
 * @param hw, hh  half-sizes: the grid has (2 hw + 1) x (2 hh + 1) places
 * @param out     receives the values row by row; at least that many
 * Cost: about eight multiply-adds a place. No allocation once the scratch row buffer has grown.
 */
export function sampleGrid(
  plane: Plane,
  cx: number,
  cy: number,
  hw: number,
  hh: number,
  out: Float64Array,
): void {
  const { width, height, stride, data } = plane;
  // The single place where the half pixel is taken off: from corner-based to sample-index coordinates.
  const left = cx - 0.5 - hw;
  const top = cy - 0.5 - hh;
  const ix = Math.floor(left);
  const iy = Math.floor(top);
  const n = 2 * hw + 1;
  const m = 2 * hh + 1;
  splineWeights(left - ix, wx);
  splineWeights(top - iy, wy);
  const [a0, a1, a2, a3] = wx;
  const [b0, b1, b2, b3] = wy;
  if (rows.length < n * (m + 3)) rows = new Float64Array(n * (m + 3));
  const inside = ix >= 1 && ix + n + 2 <= width;
  for (let j = 0; j < m + 3; j++) {
    const y = Math.min(height - 1, Math.max(0, iy - 1 + j));
    const base = y * stride;
    const to = j * n;
    if (inside) {
      let p = base + ix - 1;
      for (let i = 0; i < n; i++, p++) {
        rows[to + i] = a0 * data[p] + a1 * data[p + 1] + a2 * data[p + 2] + a3 * data[p + 3];
      }
    } else {
      for (let i = 0; i < n; i++) {
        const x = ix + i;
        rows[to + i] =
          a0 * data[base + clamp(x - 1, width)] +
          a1 * data[base + clamp(x, width)] +
          a2 * data[base + clamp(x + 1, width)] +
          a3 * data[base + clamp(x + 2, width)];
      }
    }
  }
  for (let j = 0; j < m; j++) {
    const p = j * n;
    for (let i = 0; i < n; i++) {
      const q = p + i;
      out[q] = b0 * rows[q] + b1 * rows[q + n] + b2 * rows[q + 2 * n] + b3 * rows[q + 3 * n];
    }
  }
}

/** A linear map [a, b, c, d] of patch offsets (u, v) to picture offsets (a u + b v, c u + d v). */
export type Shape = readonly [number, number, number, number];

export const UPRIGHT: Shape = [1, 0, 0, 1];

/** The map that does `b` first, then `a`. */
export function multiplyShapes(a: Shape, b: Shape): Shape {
  if (b === UPRIGHT) return a;
  return [
    a[0] * b[0] + a[1] * b[2],
    a[0] * b[1] + a[1] * b[3],
    a[2] * b[0] + a[3] * b[2],
    a[2] * b[1] + a[3] * b[3],
  ];
}

/** The similarity that a shape is nearest to: radians, clockwise on screen, and a ratio (Umeyama 1991, in the plane). */
export function turnAndScale([a, b, c, d]: Shape): { turn: number; scale: number } {
  return { turn: Math.atan2(c - b, a + d), scale: Math.hypot(a + d, c - b) / 2 };
}

/**
 * As {@link sampleGrid}, with the grid turned, scaled or sheared by `shape` about its centre.
 * Cost: sixteen multiply-adds a place.
 */
export function sampleShaped(
  plane: Plane,
  cx: number,
  cy: number,
  shape: Shape,
  hw: number,
  hh: number,
  out: Float64Array,
): void {
  const { width, height, stride, data } = plane;
  const [a, b, c, d] = shape;
  const W = SPLINE_TABLE;
  let q = 0;
  for (let v = -hh; v <= hh; v++) {
    let x = cx - 0.5 - a * hw + b * v;
    let y = cy - 0.5 - c * hw + d * v;
    for (let u = -hw; u <= hw; u++, q++, x += a, y += c) {
      const ix = Math.floor(x) | 0;
      const iy = Math.floor(y) | 0;
      const wx = (((x - ix) * CUBIC_PHASES + 0.5) | 0) << 2;
      const wy = (((y - iy) * CUBIC_PHASES + 0.5) | 0) << 2;
      let sum = 0;
      if (ix >= 1 && iy >= 1 && ix < width - 2 && iy < height - 2) {
        const a0 = W[wx];
        const a1 = W[wx + 1];
        const a2 = W[wx + 2];
        const a3 = W[wx + 3];
        const p = (Math.imul(iy - 1, stride) + ix - 1) | 0;
        const q1 = (p + stride) | 0;
        const q2 = (q1 + stride) | 0;
        const q3 = (q2 + stride) | 0;
        sum =
          W[wy] * (a0 * data[p] + a1 * data[p + 1] + a2 * data[p + 2] + a3 * data[p + 3]) +
          W[wy + 1] * (a0 * data[q1] + a1 * data[q1 + 1] + a2 * data[q1 + 2] + a3 * data[q1 + 3]) +
          W[wy + 2] * (a0 * data[q2] + a1 * data[q2 + 1] + a2 * data[q2 + 2] + a3 * data[q2 + 3]) +
          W[wy + 3] * (a0 * data[q3] + a1 * data[q3 + 1] + a2 * data[q3 + 2] + a3 * data[q3 + 3]);
      } else {
        for (let j = 0; j < 4; j++) {
          const row = clamp(iy - 1 + j, height) * stride;
          for (let i = 0; i < 4; i++) sum += W[wy + j] * W[wx + i] * data[row + clamp(ix - 1 + i, width)];
        }
      }
      out[q] = sum;
    }
  }
}

function clamp(i: number, size: number): number {
  return i < 0 ? 0 : i >= size ? size - 1 : i;
}
