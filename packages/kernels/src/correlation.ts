import { addressOf, kernels, SCRATCH, type Kernels } from './instance.js';
import type { BytePlane } from './plane.js';

/** A patch of values on a unit grid of (2 hw + 1) x (2 hh + 1) places, row by row. */
export interface Patch {
  readonly hw: number;
  readonly hh: number;
  readonly values: Float32Array;
}

/**
 * Sums for the zero-mean normalised cross-correlation of a patch with a plane (Lewis 1995, "Fast normalized
 * cross-correlation", eq. 1): b, b b and a b over the patch's places, with the patch's first place on the sample
 * (left, top) and on those to its right and below. All places lie in the plane.
 *
 * @param out  three numbers a shift, row by row
 * Cost: three multiply-adds a place and shift.
 */
export function correlationPlain(
  { data, stride }: BytePlane,
  { hw, hh, values }: Patch,
  left: number,
  top: number,
  columns: number,
  rows: number,
  out: Float64Array,
): void {
  const n = (2 * hw + 1) | 0;
  const m = (2 * hh + 1) | 0;
  for (let j = 0, k = 0; j < rows; j++) {
    for (let i = 0; i < columns; i++, k += 3) {
      let sb = 0;
      let sbb = 0;
      let sab = 0;
      let q = 0;
      for (let v = 0; v < m; v++) {
        let p = (Math.imul(top + j + v, stride) + left + i) | 0;
        for (const end = p + n; p < end; p++, q++) {
          const b = data[p] | 0;
          sb = (sb + b) | 0;
          sbb = (sbb + Math.imul(b, b)) | 0;
          sab += values[q] * b;
        }
      }
      out[k] = sb;
      out[k + 1] = sbb;
      out[k + 2] = sab;
    }
  }
}

/** The kernel's patch is in whole parts of a grey level: as fine as this, or as its sums have room for. */
const FINEST = 64;
const MOST = 2 ** 31 - 1;
/** More places than this could overflow the sum of squares. */
const MOST_PLACES = 30000;

/**
 * {@link correlationPlain}, by the kernel where the plane is in its memory: b and b b are the same, a b is that of a
 * patch rounded to parts of a grey level.
 */
export function correlationSums(
  plane: BytePlane,
  patch: Patch,
  left: number,
  top: number,
  columns: number,
  rows: number,
  out: Float64Array,
): void {
  const all = kernels();
  const address = all ? addressOf(all, plane.data) : -1;
  const n = 2 * patch.hw + 1;
  const m = 2 * patch.hh + 1;
  const wide = (n + 7) & ~7;
  const fits = 2 * wide * m + 12 * columns * rows + 16 < SCRATCH && n * m < MOST_PLACES;
  if (!all || address < 0 || !fits) {
    correlationPlain(plane, patch, left, top, columns, rows, out);
    return;
  }
  const scale = load(all, patch, wide);
  const sums = all.scratch + 2 * wide * m;
  const from = address + top * plane.stride + left;
  all.correlationSums(from, plane.stride, all.scratch, n, m, columns, rows, sums);
  const { words } = all;
  for (let k = 0, p = sums >> 2; k < 3 * columns * rows; k += 3) {
    out[k] = words[p + k];
    out[k + 1] = words[p + k + 1];
    out[k + 2] = words[p + k + 2] / scale;
  }
}

/** Puts the patch into the scratch memory. @returns parts of a grey level */
function load({ shorts, scratch }: Kernels, { hw, hh, values }: Patch, wide: number): number {
  const n = 2 * hw + 1;
  let most = 0;
  for (let q = 0; q < values.length; q++) most += Math.abs(values[q]) + 1;
  const scale = Math.min(FINEST, Math.floor(MOST / (255 * most)));
  for (let j = 0, q = 0; j <= 2 * hh; j++) {
    const to = scratch / 2 + j * wide;
    for (let i = 0; i < n; i++, q++) shorts[to + i] = Math.round(values[q] * scale);
    for (let i = n; i < wide; i++) shorts[to + i] = 0;
  }
  return scale;
}
