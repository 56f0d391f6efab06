import { tableOf } from '@lurn/kernels';

/**
 * The cubic convolution kernel with a = -1/2, which interpolates and reproduces quadratics
 * (Keys 1981, "Cubic convolution interpolation for digital image processing", eq. 15).
 * Its support is [-2, 2].
 */
export function cubic(t: number): number {
  const x = Math.abs(t);
  if (x < 1) return 1.5 * x * x * x - 2.5 * x * x + 1;
  if (x < 2) return -0.5 * x * x * x + 2.5 * x * x - 4 * x + 2;
  return 0;
}

/** The four weights of {@link cubic} for samples at -1, 0, 1, 2 when the wanted place is at `f` in [0, 1). */
export function cubicWeights(f: number, out: Float64Array): void {
  const f2 = f * f;
  const f3 = f2 * f;
  out[0] = -0.5 * f3 + f2 - 0.5 * f;
  out[1] = 1.5 * f3 - 2.5 * f2 + 1;
  out[2] = -1.5 * f3 + 2 * f2 + 0.5 * f;
  out[3] = 0.5 * f3 - 0.5 * f2;
}

/** {@link cubicWeights} for every phase from 0 to 1, four numbers each. */
export const CUBIC_TABLE: Float64Array = tableOf(cubicWeights);
