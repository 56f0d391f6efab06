import {
  ALIGNMENT_SUMS,
  cellSizes,
  CELLS,
  PATCH_SUMS,
  SeenPatch,
  wideOf,
  type PatchImages,
  type Window,
} from '@lurn/kernels';
import { inverse, Matrix } from 'ml-matrix';
import type { Plane } from '../picture/plane.js';
import { multiplyShapes, UPRIGHT, type Shape } from '../picture/sampling.js';
import { LEAST_INSIDE, score, type Patch } from './correlation.js';

/** What a patch may do from frame to frame besides changing in gain and offset. */
export type Allow = 'shift' | 'similarity' | 'affine';

/** A place and shape of a patch in a picture. */
export interface Pose {
  /** Centre in corner-based coordinates of the plane. */
  readonly x: number;
  readonly y: number;
  readonly shape: Shape;
}

/** Where a patch was found to sub-pixel precision, and how sure that is. */
export interface Alignment extends Pose {
  /** Normalised cross-correlation there. */
  readonly score: number;
  /** False when the iteration ran off or did not settle. */
  readonly converged: boolean;
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
const MOST_STEPS = 15;
/** A shape whose area has changed by more than this ratio to either side has run off. */
const LARGEST_GROWTH = 9;

const products = new Float64Array(ALIGNMENT_SUMS);
const sums = new Float64Array(PATCH_SUMS);
const cells = new Float64Array(CELLS);
const sizes = new Float64Array(CELLS);

/**
 * Sub-pixel alignment of a fixed patch by shift, similarity or affine motion with gain and offset:
 * inverse-compositional Lucas-Kanade (Baker and Matthews 2004, "Lucas-Kanade 20 years on", section 3.2, with the
 * linear appearance variation of part 3). The model I(W(x)) = g T(x + d(x)) + o is linearised over the steepest
 * descent images of d, the patch itself and a constant, so that the normal matrix depends on the patch alone and
 * is inverted once.
 */
export class PatchAligner {
  private readonly seen: SeenPatch;
  private readonly moments: Float64Array;
  private readonly solution: Float64Array;
  private readonly whole: Float64Array | null;
  private readonly fullWindow: Window;

  /**
   * @param patch    values sampled with the same kernel that {@link align} samples the picture with
   * @param settled  the step, in samples, below which a place is exact enough
   */
  constructor(
    readonly patch: Patch,
    readonly allow: Allow,
    private readonly settled = SETTLED,
  ) {
    const { hw, hh } = patch;
    const n = 2 * hw + 1;
    const m = 2 * hh + 1;
    this.seen = new SeenPatch(hw, hh, imagesOf(patch));
    this.moments = new Float64Array(MOVES[allow] + 2);
    this.solution = new Float64Array(MOVES[allow] + 2);
    this.fullWindow = { i0: 0, i1: n, j0: 0, j1: m };
    this.whole = this.inverseNormal(this.fullWindow);
  }

  /** False when the patch has no texture in some direction, so that its motion is not determined. */
  get determined(): boolean {
    return this.whole !== null;
  }

  /**
   * Refines a first guess.
   *
   * @param limit  how far, in samples, the result may lie from the guess before it counts as run off
   * @returns null when too little of the patch lies in the picture or it has no texture
   * Cost: about twenty multiply-adds a place and step; three to six steps as a rule.
   */
  align(plane: Plane, guess: Pose, limit: number): Alignment | null {
    const window = this.insideWindow(plane, guess.x, guess.y);
    if (!window) return null;
    const inverseNormal = window === this.fullWindow ? this.whole : this.inverseNormal(window);
    if (!inverseNormal) return null;
    const { allow, solution } = this;
    const { hw, hh } = this.patch;
    const count = solution.length;
    let { x, y, shape } = guess;
    let converged = false;
    let sampled = false;
    for (let step = 0; step < MOST_STEPS; step++) {
      this.sample(plane, x, y, shape);
      sampled = true;
      this.solve(window, inverseNormal);
      const gain = solution[count - 2];
      if (Math.abs(gain) < 1e-3) break;
      for (let r = 0; r < count - 2; r++) solution[r] /= gain;
      const length = Math.hypot(solution[0], solution[1]);
      const damp = length > 1 ? 1 / length : 1;
      const [tx, ty] = [solution[0] * damp, solution[1] * damp];
      const d = increment(solution, allow);
      const det = d[0] * d[3] - d[1] * d[2];
      if (!(det > 0.25 && det < 4)) break;
      // W <- W o (x -> D x + t)^-1
      const inverseD: Shape = d === UPRIGHT ? d : [d[3] / det, -d[1] / det, -d[2] / det, d[0] / det];
      shape = multiplyShapes(shape, inverseD);
      x -= shape[0] * tx + shape[1] * ty;
      y -= shape[2] * tx + shape[3] * ty;
      const area = shape[0] * shape[3] - shape[1] * shape[2];
      if (
        Math.hypot(x - guess.x, y - guess.y) > limit ||
        !(area > 1 / LARGEST_GROWTH && area < LARGEST_GROWTH)
      )
        break;
      sampled = false;
      const rim =
        Math.max(Math.abs(d[0] - 1), Math.abs(d[1]), Math.abs(d[2]), Math.abs(d[3] - 1)) * Math.max(hw, hh);
      if (length + 0.3 * rim < this.settled) {
        // The picture as it was sampled is good for the score: it is a hair away.
        converged = sampled = true;
        break;
      }
    }
    if (!sampled) this.sample(plane, x, y, shape);
    return { x, y, shape, converged, ...this.judge(window, inverseNormal, shape) };
  }

  private sample(plane: Plane, x: number, y: number, shape: Shape): void {
    this.seen.sample(plane, x, y, shape === UPRIGHT ? null : shape);
  }

  /** Least squares over the basis: products of the current picture with every image of it, then the inverse. */
  private solve(window: Window, inverseNormal: Float64Array): void {
    const { moments, solution, allow } = this;
    this.seen.alignment(window, products);
    const [gx, gy, ux, vx, uy, vy, patch, one] = products;
    moments[0] = gx;
    moments[1] = gy;
    if (allow === 'similarity') {
      moments[2] = uy - vx;
      moments[3] = ux + vy;
    } else if (allow === 'affine') {
      moments[2] = ux;
      moments[3] = vx;
      moments[4] = uy;
      moments[5] = vy;
    }
    const count = moments.length;
    moments[count - 2] = patch;
    moments[count - 1] = one;
    for (let r = 0; r < count; r++) {
      let sum = 0;
      for (let c = 0; c < count; c++) sum += inverseNormal[r * count + c] * moments[c];
      solution[r] = sum;
    }
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
    cellSizes(window, sizes);
    let residual = 0;
    for (let k = 0; k < CELLS; k++) {
      residual += cells[k];
      cells[k] /= Math.max(1, sizes[k]);
    }
    cells.sort();
    const m = this.moments.length;
    const scale = gain !== 0 ? Math.hypot(shape[0], shape[2]) / Math.abs(gain) : Infinity;
    const [xx, xy, yy] = [inverseNormal[0], inverseNormal[1], inverseNormal[m + 1]];
    const worst = (xx + yy) / 2 + Math.hypot((xx - yy) / 2, xy);
    return {
      score: score(count, sa, saa, sb, sbb, sab),
      error: scale * Math.sqrt((worst * residual) / count),
      uneven: cells[8] / (cells[4] + 0.5),
    };
  }

  /** The part of the patch inside the picture when centred there; null when it is too little. */
  private insideWindow(plane: Plane, x: number, y: number): Window | null {
    const { hw, hh } = this.patch;
    const n = 2 * hw + 1;
    const m = 2 * hh + 1;
    const left = x - hw - 0.5;
    const top = y - hh - 0.5;
    const i0 = Math.max(0, Math.ceil(-left));
    const i1 = Math.min(n, Math.floor(plane.width - left));
    const j0 = Math.max(0, Math.ceil(-top));
    const j1 = Math.min(m, Math.floor(plane.height - top));
    if (i0 === 0 && j0 === 0 && i1 === n && j1 === m) return this.fullWindow;
    if (i1 <= i0 || j1 <= j0 || (i1 - i0) * (j1 - j0) < LEAST_INSIDE * n * m) return null;
    return { i0, i1, j0, j1 };
  }

  /** The inverse of the normal matrix over the basis, row-major; null when it is singular. */
  private inverseNormal({ i0, i1, j0, j1 }: Window): Float64Array | null {
    const { stride } = this.seen.images;
    const basis = basisOf(this.seen.images, this.allow);
    const count = basis.length;
    const normal = Matrix.zeros(count, count);
    for (let a = 0; a < count; a++) {
      for (let b = 0; b <= a; b++) {
        let sum = 0;
        for (let j = j0; j < j1; j++) {
          for (let p = j * stride + i0; p < j * stride + i1; p++) sum += basis[a][p] * basis[b][p];
        }
        normal.set(a, b, sum);
        normal.set(b, a, sum);
      }
    }
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

/** The smaller eigenvalue of the symmetric matrix [[a, b], [b, c]]. */
export function smallestEigenvalue(a: number, b: number, c: number): number {
  return (a + c) / 2 - Math.hypot((a - c) / 2, b);
}

/** How many numbers a motion has. */
const MOVES: Readonly<Record<Allow, number>> = { shift: 2, similarity: 4, affine: 6 };

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

/** Steepest descent images of the motions that are allowed, then the patch and a constant. */
function basisOf({ hw, hh, stride, gx, gy, values }: PatchImages, allow: Allow): Float32Array[] {
  const image = (value: (p: number, u: number, v: number) => number) =>
    Float32Array.from(values, (_, p) => value(p, (p % stride) - hw, Math.floor(p / stride) - hh));
  const moves =
    allow === 'shift'
      ? []
      : allow === 'similarity'
        ? [image((p, u, v) => u * gy[p] - v * gx[p]), image((p, u, v) => u * gx[p] + v * gy[p])]
        : [
            image((p, u) => u * gx[p]),
            image((p, _, v) => v * gx[p]),
            image((p, u) => u * gy[p]),
            image((p, _, v) => v * gy[p]),
          ];
  return [gx, gy, ...moves, values, image(() => 1)];
}

/** I + the linear part of the step that was solved for. */
function increment(q: Float64Array, allow: Allow): Shape {
  if (allow === 'shift') return UPRIGHT;
  if (allow === 'similarity') return [1 + q[3], -q[2], q[2], 1 + q[3]];
  return [1 + q[2], q[3], q[4], 1 + q[5]];
}
