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

/** Sub-sample positions that {@link CUBIC_TABLE} tells apart. */
export const CUBIC_PHASES = 1024;

/** {@link cubicWeights} for every phase from 0 to 1, four numbers each. */
export const CUBIC_TABLE: Float64Array = tableOf(cubicWeights);

/**
 * The four weights of the cubic B-spline. It smooths (by about 0.6 samples) instead of interpolating, by the same
 * amount at every sub-sample position: what is measured on such samples is not drawn to whole pixels by noise
 * (Unser 1999, "Splines: a perfect fit for signal and image processing", eq. 6).
 */
export function splineWeights(f: number, out: Float64Array): void {
  const g = 1 - f;
  out[0] = (g * g * g) / 6;
  out[1] = (3 * f * f * f - 6 * f * f + 4) / 6;
  out[2] = (3 * g * g * g - 6 * g * g + 4) / 6;
  out[3] = (f * f * f) / 6;
}

/** {@link splineWeights} for every phase from 0 to 1, four numbers each. */
export const SPLINE_TABLE: Float64Array = tableOf(splineWeights);

function tableOf(weights: (f: number, out: Float64Array) => void): Float64Array {
  const table = new Float64Array((CUBIC_PHASES + 1) * 4);
  const w = new Float64Array(4);
  for (let p = 0; p <= CUBIC_PHASES; p++) {
    weights(p / CUBIC_PHASES, w);
    table.set(w, 4 * p);
  }
  return table;
}
