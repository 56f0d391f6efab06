/**
 * Gaussian smoothing of a sampled curve by local linear regression: at each place the value there of the
 * straight line that fits best under Gaussian weights (Cleveland 1979, with a Gaussian for the tricube). Inside
 * the curve this is the Gaussian filter; at its ends it neither pulls in nor overshoots, and a straight course
 * comes out exactly as it went in. The kernel is cut off at three sigma.
 *
 * @param sigma  in samples; 0 or less returns a copy
 * Cost: values x 6 sigma.
 */
export function smoothGaussian(values: readonly number[] | Float64Array, sigma: number): Float64Array {
  const out = Float64Array.from(values);
  if (!(sigma > 0)) return out;
  const reach = Math.ceil(3 * sigma);
  const kernel = Array.from({ length: reach + 1 }, (_, k) => Math.exp(-0.5 * (k / sigma) ** 2));
  for (let i = 0; i < values.length; i++) {
    let w = 0;
    let wt = 0;
    let wtt = 0;
    let wv = 0;
    let wtv = 0;
    for (let t = Math.max(-reach, -i); t <= Math.min(reach, values.length - 1 - i); t++) {
      const k = kernel[Math.abs(t)];
      w += k;
      wt += k * t;
      wtt += k * t * t;
      wv += k * values[i + t];
      wtv += k * t * values[i + t];
    }
    const det = w * wtt - wt * wt;
    out[i] = det > 1e-9 * w * w ? (wtt * wv - wt * wtv) / det : wv / w;
  }
  return out;
}
