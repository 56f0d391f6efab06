import { addressOf, kernels, type Kernels } from './instance.js';
import type { BytePlane } from './plane.js';

/** Sums of a block: eight steepest descent images times what is seen, what is seen, its square, and it times the texture. */
export const SURFACE_SUMS = 11;

/** Samples of a surface: where they lie, what its texture is there, and how that changes along a unit. */
export interface SurfaceSamples {
  readonly u: Float32Array;
  readonly v: Float32Array;
  readonly values: Float32Array;
  readonly gx: Float32Array;
  readonly gy: Float32Array;
}

/** Where the kernel finds a picture and the samples: addresses in bytes. */
export interface SurfaceReach {
  readonly all: Kernels;
  readonly data: number;
  readonly u: number;
  readonly v: number;
  readonly values: number;
  readonly gx: number;
  readonly gy: number;
}

/** What {@link surfaceSums} over many blocks of the same samples asks for once; null where the kernel does not reach them. */
export function surfaceReach(plane: BytePlane, samples: SurfaceSamples): SurfaceReach | null {
  const all = kernels();
  if (!all) return null;
  const reach = {
    ...{ all, data: addressOf(all, plane.data), values: addressOf(all, samples.values) },
    ...{ u: addressOf(all, samples.u), v: addressOf(all, samples.v) },
    ...{ gx: addressOf(all, samples.gx), gy: addressOf(all, samples.gy) },
  };
  const { data, values, u, v, gx, gy } = reach;
  return Math.min(data, values, u, v, gx, gy) < 0 ? null : reach;
}

/**
 * Looks at a block of samples through a homography, by the quadratic B-spline, and sums what an inverse-compositional
 * step needs. What is seen is told about `level`, so that sums of squares keep their digits. Every place has to lie two
 * samples inside the picture.
 *
 * @param reach  of the picture and the samples; null where it is to be done by plain TypeScript
 * @param m      the samples' places to the plane's, row-major
 * @param mean   the texture's mean over the block
 * @param level  a grey level near what is seen
 * @param out    receives {@link SURFACE_SUMS} numbers from `at` on
 * Cost: some sixty operations a sample; a sixth of that where the kernel does it.
 */
export function surfaceSums(
  plane: BytePlane,
  samples: SurfaceSamples,
  reach: SurfaceReach | null,
  from: number,
  to: number,
  m: ArrayLike<number>,
  mean: number,
  level: number,
  out: Float64Array,
  at: number,
): void {
  if (!reach) return surfaceSumsPlain(plane, samples, from, to, m, mean, level, out, at);
  const { all, data, u, v, values, gx, gy } = reach;
  const { doubles, scratch } = all;
  const matrix = scratch >> 3;
  for (let k = 0; k < 9; k++) doubles[matrix + k] = m[k];
  const first = 4 * from;
  const result = scratch + RESULT;
  // prettier-ignore
  all.surfaceSums(
    data, plane.stride, u + first, v + first, values + first, gx + first, gy + first,
    to - from, scratch, mean, level, result,
  );
  for (let k = 0; k < SURFACE_SUMS; k++) out[at + k] = doubles[(result >> 3) + k];
}

/** Where the kernel's sums begin, behind the matrix, in bytes. */
const RESULT = 128;

/** {@link surfaceSums} by plain TypeScript. */
export function surfaceSumsPlain(
  { stride, data }: BytePlane,
  { u, v, values, gx, gy }: SurfaceSamples,
  from: number,
  to: number,
  m: ArrayLike<number>,
  mean: number,
  level: number,
  out: Float64Array,
  at: number,
): void {
  const [a, b, c, d, e, f, g, h, i] = [m[0], m[1], m[2], m[3], m[4], m[5], m[6], m[7], m[8]];
  let [s0, s1, s2, s3, s4, s5, s6, s7, sum, squares, product] = [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0];
  for (let k = from; k < to; k++) {
    const x = u[k];
    const y = v[k];
    const w = 1 / (g * x + h * y + i);
    const px = (a * x + b * y + c) * w;
    const py = (d * x + e * y + f) * w;
    const ix = px | 0;
    const iy = py | 0;
    const fx = px - ix - 0.5;
    const fy = py - iy - 0.5;
    const x0 = 0.5 * (0.5 - fx) * (0.5 - fx);
    const x2 = 0.5 * (0.5 + fx) * (0.5 + fx);
    const x1 = 1 - x0 - x2;
    const y0 = 0.5 * (0.5 - fy) * (0.5 - fy);
    const y2 = 0.5 * (0.5 + fy) * (0.5 + fy);
    const p = (iy * stride + ix) | 0;
    const up = (p - stride) | 0;
    const down = (p + stride) | 0;
    const seen =
      y0 * (x0 * data[up - 1] + x1 * data[up] + x2 * data[up + 1]) +
      (1 - y0 - y2) * (x0 * data[p - 1] + x1 * data[p] + x2 * data[p + 1]) +
      y2 * (x0 * data[down - 1] + x1 * data[down] + x2 * data[down + 1]) -
      level;
    const p1 = gx[k] * seen;
    const p2 = gy[k] * seen;
    const q = p1 * x + p2 * y;
    s0 += p1 * x;
    s1 += p1 * y;
    s2 += p1;
    s3 += p2 * x;
    s4 += p2 * y;
    s5 += p2;
    s6 -= q * x;
    s7 -= q * y;
    sum += seen;
    squares += seen * seen;
    product += seen * (values[k] - mean);
  }
  out[at] = s0;
  out[at + 1] = s1;
  out[at + 2] = s2;
  out[at + 3] = s3;
  out[at + 4] = s4;
  out[at + 5] = s5;
  out[at + 6] = s6;
  out[at + 7] = s7;
  out[at + 8] = sum;
  out[at + 9] = squares;
  out[at + 10] = product;
}
