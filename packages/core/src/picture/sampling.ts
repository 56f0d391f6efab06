import { sampleUpright, type Shape } from '@lurn/kernels';
import type { Plane } from './plane.js';

export { multiplyShapes, UPRIGHT, type Shape } from '@lurn/kernels';

/**
 * Samples a grid of unit steps centred on (cx, cy), lightly smoothed by the cubic B-spline; beyond the plane
 * the nearest sample is repeated.
 *
 * @param cx, cy  centre of the grid, in corner-based coordinates of `plane`
 * @param hw, hh  half-sizes: the grid has (2 hw + 1) x (2 hh + 1) places
 * @param out     receives the values row by row; at least that many
 * Cost: about eight multiply-adds a place.
 */
export function sampleGrid(
  plane: Plane,
  cx: number,
  cy: number,
  hw: number,
  hh: number,
  out: Float32Array,
): void {
  sampleUpright(plane, cx, cy, { hw, hh, stride: 2 * hw + 1 }, out);
}

/** The similarity that a shape is nearest to: radians, clockwise on screen, and a ratio (Umeyama 1991, in the plane). */
export function turnAndScale([a, b, c, d]: Shape): { turn: number; scale: number } {
  return { turn: Math.atan2(c - b, a + d), scale: Math.hypot(a + d, c - b) / 2 };
}
