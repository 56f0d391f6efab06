import type { Channel } from './channel.js';
import type { Plane } from './plane.js';

/** The picture as the tracker sees it. What is delivered is never touched. */
export interface Eye {
  readonly channel: Channel;
  /** Standard deviation of a Gaussian in pixels, 0 off. */
  readonly soften: number;
  /** How strongly detail is raised against its surroundings, 0 off; with `soften`, a band is raised. */
  readonly detail: number;
  /** How far local brightness and contrast are evened out, 0 to 1. */
  readonly localContrast: number;
}

export const PLAIN_EYE: Eye = { channel: 'luma', soften: 0, detail: 0, localContrast: 0 };

/** Detail is what a Gaussian of this deviation, in pixels, takes away. */
const DETAIL_SIGMA = 3;
/** Local contrast is evened out over squares of this half-size, in pixels. */
const CONTRAST_REACH = 14;
const CONTRAST_WANTED = 48;
/** Below this deviation, in grey levels, there is only noise to raise. */
const CONTRAST_FLOOR = 6;

/** True when only the channel is chosen and its samples are matched as they are. */
/** True when two see the same. */
export function sameEye(a: Eye, b: Eye): boolean {
  const same = a.channel === b.channel && a.soften === b.soften && a.detail === b.detail;
  return a === b || (same && a.localContrast === b.localContrast);
}

export function isPlain(eye: Eye): boolean {
  return eye.soften === 0 && eye.detail === 0 && eye.localContrast === 0;
}

/** How far beyond a place its filtered value looks, in pixels. */
export function eyeMargin(eye: Eye): number {
  return (
    Math.ceil(3 * eye.soften) +
    (eye.detail > 0 ? 3 * DETAIL_SIGMA : 0) +
    (eye.localContrast > 0 ? CONTRAST_REACH : 0)
  );
}

/**
 * Filters the samples [x0, x1) x [y0, y1) of a plane into the same places of another: soften, then detail (a
 * difference of Gaussians added back, as in unsharp masking), then local contrast (mean and deviation over a square
 * brought to a common value). Beyond the plane the nearest sample counts.
 *
 * Cost: about 6 sigma + 40 operations a sample, margins included.
 */
export function filterEye(
  plane: Plane,
  eye: Eye,
  out: Plane,
  x0: number,
  y0: number,
  x1: number,
  y1: number,
): void {
  const margin = eyeMargin(eye);
  const width = x1 - x0 + 2 * margin;
  const height = y1 - y0 + 2 * margin;
  let values = new Float32Array(width * height);
  for (let j = 0, q = 0; j < height; j++) {
    const row = Math.min(plane.height - 1, Math.max(0, y0 - margin + j)) * plane.stride;
    for (let i = 0; i < width; i++, q++) {
      values[q] = plane.data[row + Math.min(plane.width - 1, Math.max(0, x0 - margin + i))];
    }
  }
  if (eye.soften > 0) values = gaussian(values, width, height, eye.soften);
  if (eye.detail > 0) {
    const soft = gaussian(values, width, height, DETAIL_SIGMA);
    for (let q = 0; q < values.length; q++) values[q] += eye.detail * (values[q] - soft[q]);
  }
  if (eye.localContrast > 0) evenOut(values, width, height, eye.localContrast);
  for (let y = y0; y < y1; y++) {
    let q = (y - y0 + margin) * width + margin;
    for (let x = x0; x < x1; x++, q++) {
      const v = values[q];
      out.data[y * out.stride + x] = v < 0 ? 0 : v > 255 ? 255 : v + 0.5;
    }
  }
}

/** Separable Gaussian; at the ends of the buffer the nearest value is repeated. */
function gaussian(
  values: Float32Array,
  width: number,
  height: number,
  sigma: number,
): Float32Array<ArrayBuffer> {
  const radius = Math.ceil(3 * sigma);
  const weights = Float32Array.from({ length: 2 * radius + 1 }, (_, k) =>
    Math.exp(-((k - radius) ** 2) / (2 * sigma * sigma)),
  );
  const sum = weights.reduce((s, w) => s + w, 0);
  for (let k = 0; k < weights.length; k++) weights[k] /= sum;
  const pass = (from: Float32Array, step: number, count: number, lines: number, lineStep: number) => {
    const to = new Float32Array(from.length);
    for (let l = 0; l < lines; l++) {
      const base = l * lineStep;
      for (let i = 0; i < count; i++) {
        let v = 0;
        for (let k = -radius; k <= radius; k++) {
          const at = i + k < 0 ? 0 : i + k >= count ? count - 1 : i + k;
          v += weights[k + radius] * from[base + at * step];
        }
        to[base + i * step] = v;
      }
    }
    return to;
  };
  return pass(pass(values, 1, width, height, width), width, height, width, 1);
}

/** Brings mean and deviation over squares towards common values, by running sums. */
function evenOut(values: Float32Array, width: number, height: number, amount: number): void {
  const w = width + 1;
  const sums = new Float64Array(w * (height + 1));
  const squares = new Float64Array(w * (height + 1));
  for (let j = 0; j < height; j++) {
    let s = 0;
    let ss = 0;
    for (let i = 0; i < width; i++) {
      const v = values[j * width + i];
      s += v;
      ss += v * v;
      sums[(j + 1) * w + i + 1] = sums[j * w + i + 1] + s;
      squares[(j + 1) * w + i + 1] = squares[j * w + i + 1] + ss;
    }
  }
  for (let j = 0; j < height; j++) {
    const [t, b] = [Math.max(0, j - CONTRAST_REACH), Math.min(height, j + CONTRAST_REACH + 1)];
    for (let i = 0; i < width; i++) {
      const [l, r] = [Math.max(0, i - CONTRAST_REACH), Math.min(width, i + CONTRAST_REACH + 1)];
      const n = (b - t) * (r - l);
      const total = (of: Float64Array) => of[b * w + r] - of[t * w + r] - of[b * w + l] + of[t * w + l];
      const mean = total(sums) / n;
      const deviation = Math.sqrt(Math.max(0, total(squares) / n - mean * mean));
      const q = j * width + i;
      const even = 128 + ((values[q] - mean) * CONTRAST_WANTED) / (deviation + CONTRAST_FLOOR);
      values[q] += amount * (even - values[q]);
    }
  }
}
