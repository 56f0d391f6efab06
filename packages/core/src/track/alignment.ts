import {
  cellSizes,
  CELLS,
  MOVES,
  PATCH_SUMS,
  SeenPatch,
  wideOf,
  type Allow,
  type PatchImages,
  type Pose,
  type Settled,
  type Window,
} from '@lurn/kernels';
import { inverse, Matrix } from 'ml-matrix';
import { length } from '../numbers.js';
import { openPart } from '../picture/cover.js';
import type { Plane } from '../picture/plane.js';
import type { Shape } from '../picture/sampling.js';
import { LEAST_INSIDE, score, type Patch } from './correlation.js';

export type { Allow, Pose } from '@lurn/kernels';

/** Where a patch was found to sub-pixel precision, and how sure that is. */
export interface Alignment extends Settled {
  /** Normalised cross-correlation there. */
  readonly score: number;
  /**
   * Standard deviation of the place that follows from what the model leaves unexplained, in pixels, in the worst
   * direction: the residual variance times the inverse normal matrix (Gauss-Markov). It knows nothing of
   * lookalikes.
   */
  readonly error: number;
  /** How much worse the worst ninth of the patch fits than the middle one: far above 1 when something hides it. */
  readonly uneven: number;
}

/**
 * Below this step, in samples, the iteration has settled: each step leaves about a tenth of the error before it, and
 * the last is still taken.
 */
const SETTLED = 0.03;
/** The least part of a patch that is enough where the rest may not be measured: unlike the rim, it is known what hides it. */
const LEAST_OPEN = 0.3;
/** Farther than this from where it was looked for, in samples, another part of the patch may be open. */
const STILL_OPEN = 0.5;

const sums = new Float64Array(PATCH_SUMS);
const cells = new Float64Array(CELLS);

/** A fixed patch, ready to be aligned by shift, similarity or affine motion ({@link alignPlain} in kernels). */
export class PatchAligner {
  private readonly seen: SeenPatch;
  private readonly whole: Float64Array | null;
  private readonly fullWindow: Window;
  private readonly wholeSizes: Float64Array;

  /**
   * @param patch    values sampled with the same kernel that {@link align} samples the picture with
   * @param settled  the step, in samples, below which a place is exact enough
   * @param open     what of the patch may be measured; all of it when left out
   */
  constructor(
    readonly patch: Patch,
    readonly allow: Allow,
    private readonly settled = SETTLED,
    open?: Window,
  ) {
    const { hw, hh } = patch;
    const n = 2 * hw + 1;
    const m = 2 * hh + 1;
    this.seen = new SeenPatch(hw, hh, imagesOf(patch));
    this.fullWindow = open ?? { i0: 0, i1: n, j0: 0, j1: m };
    this.wholeSizes = cellSizes(this.fullWindow);
    this.whole = this.inverseNormal(this.fullWindow);
  }

  /** False when the patch has no texture in some direction, so that its motion is not determined. */
  get determined(): boolean {
    return this.whole !== null;
  }

  /**
   * Refines a first guess, and tells how well the patch fits there.
   *
   * @param limit  how far, in samples, the result may lie from the guess before it counts as run off
   * @param again  looks once more where it turns out to lie elsewhere and not all of the picture may be measured
   * @returns null when too little of the patch lies in the picture or it has no texture
   */
  align(plane: Plane, guess: Pose, limit: number, again = true): Alignment | null {
    const window = this.insideWindow(plane, guess);
    const inverseNormal = window && this.inverseFor(window);
    if (!inverseNormal) return null;
    const found = this.settle(plane, guess, limit, window, inverseNormal);
    const { x, y, shape, converged } = found;
    if (again && plane.covered && converged && length(x - guess.x, y - guess.y) > STILL_OPEN)
      return this.align(plane, found, limit, false);
    const { score, error, uneven } = this.judge(window, inverseNormal, shape);
    return { x, y, shape, converged, score, error, uneven };
  }

  /** Where a first guess leads, without a judgement: null when it does not settle. */
  refine(plane: Plane, guess: Pose, limit: number): Settled | null {
    const window = this.insideWindow(plane, guess);
    const inverseNormal = window && this.inverseFor(window);
    const found = inverseNormal && this.settle(plane, guess, limit, window, inverseNormal);
    return found?.converged ? found : null;
  }

  private settle(
    plane: Plane,
    guess: Pose,
    limit: number,
    window: Window,
    inverseNormal: Float64Array,
  ): Settled {
    const { allow, settled } = this;
    return this.seen.align(plane, guess, { allow, window, inverseNormal, limit, settled });
  }

  private inverseFor(window: Window): Float64Array | null {
    return window === this.fullWindow ? this.whole : this.inverseNormal(window);
  }

  /** The correlation with what was sampled last, and what gain and offset leave of it, over all and in each of nine cells. */
  private judge(
    window: Window,
    inverseNormal: Float64Array,
    shape: Shape,
  ): { score: number; error: number; uneven: number } {
    this.seen.sums(window, sums);
    const [sa, saa, sb, sbb, sab] = sums;
    const count = (window.i1 - window.i0) * (window.j1 - window.j0);
    const va = saa - (sa * sa) / count;
    const vab = sab - (sa * sb) / count;
    const gain = va > 0 ? vab / va : 0;
    const offset = (sb - gain * sa) / count;
    this.seen.residuals(window, gain, offset, cells);
    const sizes = window === this.fullWindow ? this.wholeSizes : cellSizes(window);
    let residual = 0;
    for (let k = 0; k < CELLS; k++) {
      residual += cells[k];
      cells[k] /= Math.max(1, sizes[k]);
    }
    sort(cells);
    const m = MOVES[this.allow] + 2;
    const scale = gain !== 0 ? length(shape[0], shape[2]) / Math.abs(gain) : Infinity;
    const [xx, xy, yy] = [inverseNormal[0], inverseNormal[1], inverseNormal[m + 1]];
    const worst = (xx + yy) / 2 + length((xx - yy) / 2, xy);
    return {
      score: score(count, sa, saa, sb, sbb, sab),
      error: scale * Math.sqrt((worst * residual) / count),
      uneven: cells[8] / (cells[4] + 0.5),
    };
  }

  /** The part of the patch inside the picture when centred there; null when it is too little. */
  private insideWindow(plane: Plane, pose: Pose): Window | null {
    const { hw, hh } = this.patch;
    const { fullWindow: all } = this;
    const places = (2 * hw + 1) * (2 * hh + 1);
    const left = pose.x - hw - 0.5;
    const top = pose.y - hh - 0.5;
    const i0 = Math.max(all.i0, Math.ceil(-left));
    const i1 = Math.min(all.i1, Math.floor(plane.width - left));
    const j0 = Math.max(all.j0, Math.ceil(-top));
    const j1 = Math.min(all.j1, Math.floor(plane.height - top));
    const whole = i0 === all.i0 && j0 === all.j0 && i1 === all.i1 && j1 === all.j1;
    if (whole && !plane.covered) return all;
    if (i1 <= i0 || j1 <= j0) return null;
    const inside = whole ? all : { i0, i1, j0, j1 };
    const open = openPart(plane, pose, hw, hh, inside);
    if (!open || open === all) return open;
    const least = plane.covered ? LEAST_OPEN : LEAST_INSIDE;
    return (open.i1 - open.i0) * (open.j1 - open.j0) < least * places ? null : open;
  }

  /** The inverse of the normal matrix over the basis, row-major; null when it is singular. */
  private inverseNormal(window: Window): Float64Array | null {
    const normal = normalMatrix(this.seen.images, this.allow, window);
    const { i0, i1, j0, j1 } = window;
    const places = (i1 - i0) * (j1 - j0);
    const [xx, xy, yy] = [normal.get(0, 0) / places, normal.get(0, 1) / places, normal.get(1, 1) / places];
    if (xx + yy < 1e-3 || smallestEigenvalue(xx, xy, yy) < 1e-5 * (xx + yy)) return null;
    try {
      const out = Float64Array.from(inverse(normal).to1DArray());
      return out.every(Number.isFinite) ? out : null;
    } catch {
      return null; // singular: texture that a turn or a growth does not change
    }
  }
}

/** Sorts a handful of numbers where they are: quicker than asking for it. */
function sort(values: Float64Array): void {
  for (let i = 1; i < values.length; i++) {
    const v = values[i];
    let j = i;
    for (; j > 0 && values[j - 1] > v; j--) values[j] = values[j - 1];
    values[j] = v;
  }
}

/** The smaller eigenvalue of the symmetric matrix [[a, b], [b, c]]. */
export function smallestEigenvalue(a: number, b: number, c: number): number {
  return (a + c) / 2 - Math.hypot((a - c) / 2, b);
}

/** A patch's derivatives across and down, then the patch, in one array as {@link SeenPatch} takes them. */
function imagesOf({ hw, hh, values }: Patch): Float32Array {
  const n = 2 * hw + 1;
  const m = 2 * hh + 1;
  const wide = wideOf(hw);
  const out = new Float32Array(3 * wide * m);
  for (let v = 0; v < m; v++) {
    const above = v > 0 ? n : 0;
    const below = v < m - 1 ? n : 0;
    for (let u = 0; u < n; u++) {
      const p = v * n + u;
      const q = v * wide + u;
      const l = u > 0 ? 1 : 0;
      const r = u < n - 1 ? 1 : 0;
      out[q] = (values[p + r] - values[p - l]) / (l + r || 1);
      out[q + wide * m] = ((values[p + below] - values[p - above]) * n) / (above + below || n);
      out[q + 2 * wide * m] = values[p];
    }
  }
  return out;
}

/**
 * Products of the steepest descent images of the motions that are allowed, the patch and a constant with each other,
 * summed over a window. Cost: nine multiply-adds a place for a shift, two dozen more for a shape.
 */
function normalMatrix(images: PatchImages, allow: Allow, window: Window): Matrix {
  const { hw, hh, stride, gx, gy, values } = images;
  const count = MOVES[allow] + 2;
  const normal = Matrix.zeros(count, count);
  const put = (a: number, b: number, sum: number) => {
    normal.set(a, b, sum);
    normal.set(b, a, sum);
  };
  let [xx, xy, yy, xt, yt, tt, x1, y1, t1] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
  for (let j = window.j0; j < window.j1; j++) {
    for (let p = j * stride + window.i0; p < j * stride + window.i1; p++) {
      const x = gx[p];
      const y = gy[p];
      const t = values[p];
      xx += x * x;
      xy += x * y;
      yy += y * y;
      xt += x * t;
      yt += y * t;
      tt += t * t;
      x1 += x;
      y1 += y;
      t1 += t;
    }
  }
  const [patch, one] = [count - 2, count - 1];
  put(0, 0, xx);
  put(0, 1, xy);
  put(1, 1, yy);
  put(0, patch, xt);
  put(1, patch, yt);
  put(patch, patch, tt);
  put(0, one, x1);
  put(1, one, y1);
  put(patch, one, t1);
  put(one, one, (window.i1 - window.i0) * (window.j1 - window.j0));
  if (allow === 'shift') return normal;
  const at = new Float64Array(count);
  const sums = new Float64Array(count * count);
  at[one] = 1;
  for (let j = window.j0; j < window.j1; j++) {
    const v = j - hh;
    for (let i = window.i0, p = j * stride + i; i < window.i1; i++, p++) {
      const u = i - hw;
      at[0] = gx[p];
      at[1] = gy[p];
      at[patch] = values[p];
      if (allow === 'similarity') {
        at[2] = u * at[1] - v * at[0];
        at[3] = u * at[0] + v * at[1];
      } else {
        at[2] = u * at[0];
        at[3] = v * at[0];
        at[4] = u * at[1];
        at[5] = v * at[1];
      }
      for (let a = 2; a < patch; a++) {
        const value = at[a];
        for (let b = 0; b < count; b++) sums[a * count + b] += value * at[b];
      }
    }
  }
  for (let a = 2; a < patch; a++) for (let b = 0; b < count; b++) put(a, b, sums[a * count + b]);
  return normal;
}
