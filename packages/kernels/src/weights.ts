/** Sub-sample positions that the tables of weights tell apart. */
export const PHASES = 1024;

/**
 * The four weights of the cubic B-spline for samples at -1, 0, 1, 2 when the wanted place is at `f` in [0, 1). It
 * smooths (by about 0.6 samples) instead of interpolating, by the same amount at every sub-sample position: what is
 * measured on such samples is not drawn to whole pixels by noise (Unser 1999, "Splines: a perfect fit for signal and
 * image processing", eq. 6).
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

/**
 * The four weights of cubic convolution with a = -1/2 for samples at -1, 0, 1, 2 when the wanted place is at `f` in
 * [0, 1): it interpolates, and reproduces quadratics (Keys 1981, "Cubic convolution interpolation for digital image
 * processing", eq. 15).
 */
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

/** Four weights for every phase from 0 to 1. */
function tableOf(weights: (f: number, out: Float64Array) => void): Float64Array {
  const table = new Float64Array((PHASES + 1) * 4);
  const w = new Float64Array(4);
  for (let p = 0; p <= PHASES; p++) {
    weights(p / PHASES, w);
    table.set(w, 4 * p);
  }
  return table;
}
