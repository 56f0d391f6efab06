import FFT from 'fft.js';

export interface Spectrum {
  /** Hertz, from the first above 0 to half the frame rate. */
  readonly frequencies: Float64Array;
  /** Amplitude of each frequency, in the values' unit: a sine of amplitude A shows as A. */
  readonly amplitudes: Float64Array;
}

/**
 * Which frequencies a course is made of: its straight trend taken off, under a Hann window (Harris 1978), by the fast
 * Fourier transform. Missing values (NaN) are bridged straight.
 *
 * @param fps  values a second
 * Cost: n log n.
 */
export function spectrum(values: ArrayLike<number>, fps: number): Spectrum {
  const n = values.length;
  if (n < 4) return { frequencies: new Float64Array(0), amplitudes: new Float64Array(0) };
  const level = withoutTrend(bridged(values));
  const size = 2 ** Math.ceil(Math.log2(n));
  const windowed = new Float64Array(size);
  let gain = 0;
  for (let i = 0; i < n; i++) {
    const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / n);
    gain += w;
    windowed[i] = w * level[i];
  }
  const transform = new FFT(size);
  const out = transform.createComplexArray();
  transform.realTransform(out, windowed);
  const half = size / 2;
  const frequencies = new Float64Array(half);
  const amplitudes = new Float64Array(half);
  for (let k = 1; k <= half; k++) {
    frequencies[k - 1] = (k * fps) / size;
    amplitudes[k - 1] = ((k === half ? 1 : 2) * Math.hypot(out[2 * k], out[2 * k + 1])) / gain;
  }
  return { frequencies, amplitudes };
}

/** The energy of a course above a frequency: the mean square of what is faster, its trend taken off. */
export function energyAbove(values: ArrayLike<number>, fps: number, hertz: number): number {
  const { frequencies, amplitudes } = spectrum(values, fps);
  let sum = 0;
  for (let k = 0; k < frequencies.length; k++) if (frequencies[k] >= hertz) sum += amplitudes[k] ** 2;
  return sum;
}

function bridged(values: ArrayLike<number>): Float64Array {
  const out = Float64Array.from(values);
  let a = -1;
  for (let i = 0; i <= out.length; i++) {
    if (i < out.length && Number.isNaN(out[i])) continue;
    for (let k = a + 1; k < i; k++) {
      const from = a < 0 ? (out[i] ?? 0) : out[a];
      const to = i >= out.length ? from : out[i];
      out[k] = a < 0 ? from : from + ((k - a) / (i - a)) * (to - from);
    }
    a = i;
  }
  return out;
}

function withoutTrend(values: Float64Array): Float64Array {
  const n = values.length;
  const mean = values.reduce((a, b) => a + b, 0) / n;
  let slope = 0;
  let norm = 0;
  for (let i = 0; i < n; i++) {
    const t = i - (n - 1) / 2;
    slope += t * values[i];
    norm += t * t;
  }
  return values.map((v, i) => v - mean - (slope / norm) * (i - (n - 1) / 2));
}
