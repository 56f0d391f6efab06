import { kernelDoubles, kernelFloats } from '@lurn/kernels';

/** Room for what is worked out of one row at a time, where the kernels reach it; kept from one layer to the next. */

const places: Float64Array[] = [];
let colours = new Float32Array(0);

/**
 * Two columns of `n` places. What they hold is lost when the same room is taken again.
 *
 * @param room  0 or 1: some work needs two at a time
 */
export function placesRoom(room: 0 | 1, n: number): { readonly xs: Float64Array; readonly ys: Float64Array } {
  if (!places[room] || places[room].length < 2 * n) places[room] = kernelDoubles(2 * n);
  const kept = places[room];
  return { xs: kept.subarray(0, n), ys: kept.subarray(n, 2 * n) };
}

/** Red, green, blue and alpha of `n` samples. What it holds is lost when it is taken again. */
export function coloursRoom(n: number): Float32Array {
  if (colours.length < 4 * n) colours = kernelFloats(4 * n) as Float32Array<ArrayBuffer>;
  return colours.subarray(0, 4 * n);
}
