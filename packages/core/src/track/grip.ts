import type { Point } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import type { Pyramid } from '../picture/pyramid.js';
import { openWindow } from '../picture/cover.js';
import { sampleGrid } from '../picture/sampling.js';
import { smallestEigenvalue } from './alignment.js';
import { correlationMap, peaksOf, type Patch } from './correlation.js';

/** How well a patch will hold, told before it is tracked. */
export interface Grip {
  /** Predicted standard deviation of a match in the worst direction, in pixels; Infinity without any texture. */
  readonly error: number;
  /** The same in the best direction. */
  readonly bestError: number;
  /** The direction in which it may slide, radians clockwise from the x axis; null where it holds in all. */
  readonly slides: number | null;
  /** The place within the reach that looks most like it, when it looks too much like it. */
  readonly lookalike: (Point & { readonly score: number }) | null;
}

/** Words for a grip, from holding well to not at all. */
export type GripGrade = 'firm' | 'fair' | 'loose' | 'none';

/** A patch slides when its worst direction is this many times worse than its best. */
const SLIDING = 6;
const SLIDING_ERROR = 0.12;
/** Correlation from which another place counts as a lookalike. */
const LOOKALIKE = 0.8;
/**
 * What differs from frame to frame besides visible noise, in grey levels: rounding, and above all compression, which
 * takes fine noise out of a picture and puts its own changes in. No footage is told to be cleaner than this.
 */
const LEAST_NOISE = 2;
/** Variance of white noise of unit variance in a central difference: after the spline, and of Sobel's over eight. */
const NOISE_IN_SPLINE = 0.118;
const NOISE_IN_SOBEL = 0.1875;
/** The least half-size of a patch, in samples, at the level on which lookalikes are searched for. */
const FULL_DETAIL = 5;
const QUICK_DETAIL = 3;
/** Spline smoothing leaves this part of the noise's variance, spread over neighbours. */
const SMOOTHED = 0.6;

export function gradeOf({ error, slides }: Grip): GripGrade {
  if (!(error < 1.5)) return 'none';
  if (slides !== null || error > 0.25) return 'loose';
  return error > 0.08 ? 'fair' : 'firm';
}

/**
 * Reads the grip of a patch: the covariance of a least-squares match is twice the noise's variance (template and
 * picture both have it) times the inverse of the structure tensor summed over the patch (Forstner and Gulch 1987, "A
 * fast operator for detection and precise location of distinct points").
 *
 * @param noise  standard deviation in grey levels (`measureNoise`)
 * @param reach  where lookalikes are searched for; null leaves that out
 */
export function readGrip(
  picture: Pyramid,
  at: Point,
  patch: readonly [number, number],
  reach: readonly [number, number] | null,
  noise: number,
): Grip {
  const [hw, hh] = patch;
  picture.need(0, at.x - hw - 4, at.y - hh - 4, at.x + hw + 4, at.y + hh + 4);
  const values = new Float32Array((2 * hw + 1) * (2 * hh + 1));
  sampleGrid(picture.levels[0], at.x, at.y, hw, hh, values);
  const tensor = structureTensor(values, 2 * hw + 1, 2 * hh + 1);
  const places = (2 * hw - 1) * (2 * hh - 1);
  const second = reach && secondPeak(picture, at, patch, reach, FULL_DETAIL);
  return {
    ...fromTensor(tensor, noise, places * NOISE_IN_SPLINE),
    lookalike: second && second.score >= LOOKALIKE ? second : null,
  };
}

type Tensor = readonly [number, number, number];

function structureTensor(values: Float32Array, n: number, m: number): Tensor {
  let [xx, xy, yy] = [0, 0, 0];
  for (let j = 1; j < m - 1; j++) {
    for (let i = 1; i < n - 1; i++) {
      const p = j * n + i;
      const gx = (values[p + 1] - values[p - 1]) / 2;
      const gy = (values[p + n] - values[p - n]) / 2;
      xx += gx * gx;
      xy += gx * gy;
      yy += gy * gy;
    }
  }
  return [xx, xy, yy];
}

/**
 * @param share  how much of the noise's variance is in the tensor's diagonal: noise looks like texture, and nothing
 *               holds on to it
 */
function fromTensor(tensor: Tensor, noise: number, share: number): Omit<Grip, 'lookalike'> {
  const xy = tensor[1];
  const xx = Math.max(0, tensor[0] - share * noise * noise);
  const yy = Math.max(0, tensor[2] - share * noise * noise);
  const small = smallestEigenvalue(xx, xy, yy);
  const large = xx + yy - small;
  const deviation = (eigenvalue: number) =>
    eigenvalue > 1e-6 ? Math.sqrt((2 * SMOOTHED * Math.max(LEAST_NOISE, noise) ** 2) / eigenvalue) : Infinity;
  const [error, bestError] = [deviation(small), deviation(large)];
  const sliding = error > SLIDING * bestError && error > SLIDING_ERROR;
  // Along the eigenvector of the small eigenvalue: across the edge's gradient.
  const slides = sliding ? 0.5 * Math.atan2(2 * xy, xx - yy) + Math.PI / 2 : null;
  return { error, bestError, slides };
}

/** How much the place within the reach that looks most like a patch is like it, 0 to 1; a quick, rough answer. */
export function lookalikeScore(
  picture: Pyramid,
  at: Point,
  patch: readonly [number, number],
  reach: readonly [number, number],
): number {
  return Math.max(0, secondPeak(picture, at, patch, reach, QUICK_DETAIL)?.score ?? 0);
}

/** The second peak of the patch's correlation with its own surroundings, at a level where that is quick. */
function secondPeak(
  picture: Pyramid,
  at: Point,
  [hw, hh]: readonly [number, number],
  [rx, ry]: readonly [number, number],
  detail: number,
): (Point & { readonly score: number }) | null {
  let level = 0;
  while (level + 1 < picture.levels.length && Math.min(hw, hh) / 2 ** (level + 1) >= detail) level++;
  const size = 2 ** level;
  const [mx, my] = [rx + 2 * hw + 8, ry + 2 * hh + 8];
  picture.need(level, at.x - mx, at.y - my, at.x + mx, at.y + my);
  const plane = picture.levels[level];
  const [w, h] = [Math.round(hw / size), Math.round(hh / size)];
  const patch: Patch = { hw: w, hh: h, values: new Float32Array((2 * w + 1) * (2 * h + 1)) };
  sampleGrid(plane, at.x / size, at.y / size, w, h, patch.values);
  const [cx, cy] = [Math.floor(at.x / size), Math.floor(at.y / size)];
  const across = Math.max(1, Math.round(rx / size));
  const down = Math.max(1, Math.round(ry / size));
  const peaks = peaksOf(correlationMap(plane, patch, cx, cy, across, down), 12);
  const second = peaks.find((p) => Math.max(Math.abs(p.x - cx) / w, Math.abs(p.y - cy) / h) > 0.45);
  return second ? { x: (second.x + 0.5) * size, y: (second.y + 0.5) * size, score: second.score } : null;
}

/** Predicted error on a grid of places, for a picture of where spots hold. */
export interface GripMap {
  /** Pixels from one place to the next; the first is half of that from the corner. */
  readonly step: number;
  readonly columns: number;
  readonly rows: number;
  /** Pixels, row by row; Infinity where there is no texture or the patch does not fit. */
  readonly errors: Float32Array;
}

/** Cost: about ten operations a pixel, whatever the patch (sums over rectangles by integral images). */
export function gripMap(
  plane: Plane,
  [hw, hh]: readonly [number, number],
  noise: number,
  step: number,
): GripMap {
  const { width, height, stride, data } = plane;
  const w = width + 1;
  const sums = [0, 1, 2].map(() => new Float64Array(w * (height + 1)));
  for (let y = 0; y < height; y++) {
    const rows = [0, 0, 0];
    const [up, down] = [Math.max(0, y - 1) * stride, Math.min(height - 1, y + 1) * stride];
    for (let x = 0; x < width; x++) {
      const [l, r] = [Math.max(0, x - 1), Math.min(width - 1, x + 1)];
      // Sobel over eight: the light smoothing across the gradient is like the matcher's own.
      const at = (row: number) => data[row + r] - data[row + l];
      const gx = (at(up) + 2 * at(y * stride) + at(down)) / 8;
      const gy =
        (data[down + l] +
          2 * data[down + x] +
          data[down + r] -
          data[up + l] -
          2 * data[up + x] -
          data[up + r]) /
        8;
      const products = [gx * gx, gx * gy, gy * gy];
      const q = (y + 1) * w + x + 1;
      for (let k = 0; k < 3; k++) {
        rows[k] += products[k];
        sums[k][q] = sums[k][q - w] + rows[k];
      }
    }
  }
  const columns = Math.floor(width / step);
  const rowCount = Math.floor(height / step);
  const errors = new Float32Array(columns * rowCount).fill(Infinity);
  for (let j = 0; j < rowCount; j++) {
    for (let i = 0; i < columns; i++) {
      const [cx, cy] = [Math.floor((i + 0.5) * step), Math.floor((j + 0.5) * step)];
      const [l, r, t, b] = [cx - hw, cx + hw + 1, cy - hh, cy + hh + 1];
      if (l < 0 || t < 0 || r > width || b > height) continue;
      const [xx, xy, yy] = sums.map((s) => s[b * w + r] - s[t * w + r] - s[b * w + l] + s[t * w + l]);
      errors[j * columns + i] = fromTensor(
        [xx, xy, yy],
        noise,
        (2 * hw + 1) * (2 * hh + 1) * NOISE_IN_SOBEL,
      ).error;
    }
  }
  return { step, columns, rows: rowCount, errors };
}

export interface Suggestion extends Point {
  readonly grip: Grip;
}

export interface SuggestRequest {
  readonly count: number;
  readonly patch: readonly [number, number];
  readonly reach: readonly [number, number];
  /** Left, top, right, bottom in pixels; null for the whole picture. */
  readonly within: readonly [number, number, number, number] | null;
  /** Places that are taken: suggestions keep away from them. */
  readonly taken: readonly Point[];
}

/** Features with a larger predicted error, in pixels, are not suggested. */
const LEAST_GRIP = 0.25;
/** Candidates that are looked at closely for each one wanted. */
const TRIED = 12;

/**
 * The places of a picture that hold best, spread out, those with lookalikes left out where others are to be had. For
 * two, a pair that is far apart: what counts is the distance over the predicted error, as for a rotation.
 */
export function suggestSpots(picture: Pyramid, request: SuggestRequest, noise: number): Suggestion[] {
  const { count, patch, reach, within, taken } = request;
  const { width, height } = picture.levels[0];
  picture.need(0, 0, 0, width, height);
  const step = 4;
  const map = gripMap(picture.levels[0], patch, noise, step);
  const [left, top, right, bottom] = within ?? [0, 0, width, height];
  // Room for the shake: a spot at the rim soon leaves the picture.
  const [mx, my] = within ? patch : [patch[0] + reach[0], patch[1] + reach[1]];
  const places: (Point & { error: number })[] = [];
  map.errors.forEach((error, k) => {
    const x = ((k % map.columns) + 0.5) * step;
    const y = (Math.floor(k / map.columns) + 0.5) * step;
    const inside = x >= left && x <= right && y >= top && y <= bottom;
    if (inside && error < LEAST_GRIP && x > mx && y > my && x < width - mx && y < height - my)
      places.push({ x, y, error });
  });
  places.sort((a, b) => a.error - b.error);
  const area = (right - left) * (bottom - top);
  const apart = Math.max(2 * Math.min(...patch), Math.min(0.5 * Math.sqrt(area / Math.max(1, count)), 160));
  const near = (p: Point, q: Point, d: number) => Math.hypot(p.x - q.x, p.y - q.y) < d;
  const chosen: Suggestion[] = [];
  const spread = count === 2 ? 2 * Math.min(...patch) : apart;
  const wanted = count === 2 ? 2 * TRIED : count;
  let tried = 0;
  for (const p of places) {
    if (chosen.length >= wanted || tried > wanted * TRIED) break;
    if (chosen.some((q) => near(p, q, spread)) || taken.some((q) => near(p, q, 2 * Math.min(...patch))))
      continue;
    if (picture.levels[0].covered && !isWhollyOpen(picture.levels[0], p, patch)) continue;
    tried++;
    const grip = readGrip(picture, p, patch, reach, noise);
    if (grip.lookalike || grip.slides !== null) continue;
    chosen.push({ x: p.x, y: p.y, grip });
  }
  return count === 2 ? farPair(chosen) : chosen;
}

/** True when all of a patch may be measured there. */
function isWhollyOpen(plane: Plane, { x, y }: Point, [hw, hh]: readonly [number, number]): boolean {
  const { i0, i1, j0, j1 } = openWindow(plane, x, y, hw, hh);
  return i1 - i0 === 2 * hw + 1 && j1 - j0 === 2 * hh + 1;
}

function farPair(places: readonly Suggestion[]): Suggestion[] {
  let best: Suggestion[] = places.slice(0, 1);
  let most = 0;
  places.forEach((p, i) => {
    for (const q of places.slice(0, i)) {
      const worth = Math.hypot(p.x - q.x, p.y - q.y) / Math.hypot(p.grip.error + 0.03, q.grip.error + 0.03);
      if (worth > most) [most, best] = [worth, [q, p]];
    }
  });
  return best;
}
