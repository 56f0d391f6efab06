/** The part of a grid that counts: columns [i0, i1) of rows [j0, j1). */
export interface Window {
  readonly i0: number;
  readonly i1: number;
  readonly j0: number;
  readonly j1: number;
}

/** A patch with what its alignment needs, all with rows `stride` numbers apart and zeros in the rest. */
export interface PatchImages {
  readonly hw: number;
  readonly hh: number;
  readonly stride: number;
  readonly values: Float32Array;
  /** Its derivatives across and down. */
  readonly gx: Float32Array;
  readonly gy: Float32Array;
}

/** How many numbers {@link alignmentSums}, {@link patchSums} and {@link cellResiduals} give. */
export const ALIGNMENT_SUMS = 8;
export const PATCH_SUMS = 5;
export const CELLS = 9;

/**
 * Products of what is seen with the images of every small motion of a patch, summed over a window: gx, gy, u gx, v gx,
 * u gy, v gy with (u, v) the offset from the patch's centre, then the patch itself, then one. Shift, similarity and
 * affine motion are sums of these.
 *
 * Cost: about eight multiply-adds a place.
 */
export function alignmentSums(
  seen: Float32Array,
  { hw, hh, stride, values, gx, gy }: PatchImages,
  { i0, i1, j0, j1 }: Window,
  out: Float64Array,
): void {
  out.fill(0);
  for (let j = j0; j < j1; j++) {
    let [x, y, ux, uy, t, one] = [0, 0, 0, 0, 0, 0];
    for (let i = i0, p = j * stride + i0; i < i1; i++, p++) {
      const c = seen[p];
      const a = gx[p] * c;
      const b = gy[p] * c;
      x += a;
      y += b;
      ux += (i - hw) * a;
      uy += (i - hw) * b;
      t += values[p] * c;
      one += c;
    }
    const v = j - hh;
    out[0] += x;
    out[1] += y;
    out[2] += ux;
    out[3] += v * x;
    out[4] += uy;
    out[5] += v * y;
    out[6] += t;
    out[7] += one;
  }
}

/** Sums of a patch and of what is seen of it, over a window: a, a a, b, b b, a b. Cost: three multiply-adds a place. */
export function patchSums(
  values: Float32Array,
  seen: Float32Array,
  stride: number,
  { i0, i1, j0, j1 }: Window,
  out: Float64Array,
): void {
  let [sa, saa, sb, sbb, sab] = [0, 0, 0, 0, 0];
  for (let j = j0; j < j1; j++) {
    for (let p = j * stride + i0; p < j * stride + i1; p++) {
      const a = values[p];
      const b = seen[p];
      sa += a;
      saa += a * a;
      sb += b;
      sbb += b * b;
      sab += a * b;
    }
  }
  out[0] = sa;
  out[1] = saa;
  out[2] = sb;
  out[3] = sbb;
  out[4] = sab;
}

/**
 * What gain and offset leave of the patch, squared and summed, in each of three by three cells of a window.
 * Cost: two multiply-adds a place.
 */
export function cellResiduals(
  values: Float32Array,
  seen: Float32Array,
  stride: number,
  { i0, i1, j0, j1 }: Window,
  gain: number,
  offset: number,
  out: Float64Array,
): void {
  out.fill(0);
  for (let j = j0; j < j1; j++) {
    const row = (((j - j0) * 3) / (j1 - j0)) | 0;
    for (let third = 0; third < 3; third++) {
      const from = (i0 + ((i1 - i0) * third) / 3) | 0;
      const to = (i0 + ((i1 - i0) * (third + 1)) / 3) | 0;
      let sum = 0;
      for (let p = j * stride + from; p < j * stride + to; p++) {
        const r = seen[p] - gain * values[p] - offset;
        sum += r * r;
      }
      out[3 * row + third] += sum;
    }
  }
}

/** How many places each of the cells of {@link cellResiduals} has. */
export function cellSizes({ i0, i1, j0, j1 }: Window): Float64Array {
  const third = (from: number, to: number, k: number) => (from + ((to - from) * k) / 3) | 0;
  const out = new Float64Array(CELLS);
  for (let j = j0; j < j1; j++) {
    const row = (((j - j0) * 3) / (j1 - j0)) | 0;
    for (let k = 0; k < 3; k++) out[3 * row + k] += third(i0, i1, k + 1) - third(i0, i1, k);
  }
  return out;
}
