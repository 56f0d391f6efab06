import { inverse, Matrix } from 'ml-matrix';
import type { Plane } from '../picture/plane.js';
import { multiplyShapes, sampleGrid, sampleShaped, UPRIGHT, type Shape } from '../picture/sampling.js';
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

interface Window {
  readonly i0: number;
  readonly i1: number;
  readonly j0: number;
  readonly j1: number;
}

/**
 * Below this step, in samples, the iteration has settled: each step leaves about a tenth of the error before it, and
 * the last is still taken.
 */
const SETTLED = 0.03;
const MOST_STEPS = 15;
/** A shape whose area has changed by more than this ratio to either side has run off. */
const LARGEST_GROWTH = 9;

const cells = new Float64Array(9);
const sizes = new Float64Array(9);

/**
 * Sub-pixel alignment of a fixed patch by shift, similarity or affine motion with gain and offset:
 * inverse-compositional Lucas-Kanade (Baker and Matthews 2004, "Lucas-Kanade 20 years on", section 3.2, with the
 * linear appearance variation of part 3). The model I(W(x)) = g T(x + d(x)) + o is linearised over the steepest
 * descent images of d, the patch itself and a constant, so that the normal matrix depends on the patch alone and
 * is inverted once.
 */
export class PatchAligner {
  /** Steepest descent images, then the patch, then ones. */
  private readonly basis: Float64Array[];
  private readonly current: Float64Array;
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
    const { hw, hh, values } = patch;
    const n = 2 * hw + 1;
    const m = 2 * hh + 1;
    this.basis = basisOf(patch, allow);
    this.current = new Float64Array(values.length);
    this.moments = new Float64Array(this.basis.length);
    this.solution = new Float64Array(this.basis.length);
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
    const count = this.basis.length;
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
    const { hw, hh } = this.patch;
    if (shape === UPRIGHT) sampleGrid(plane, x, y, hw, hh, this.current);
    else sampleShaped(plane, x, y, shape, hw, hh, this.current);
  }

  /** Least squares over the basis: products of the current picture with every image of it, then the inverse. */
  private solve({ i0, i1, j0, j1 }: Window, inverseNormal: Float64Array): void {
    const { current, basis, moments, solution } = this;
    const n = 2 * this.patch.hw + 1;
    const count = basis.length;
    // Two images at a time share the reading of the picture.
    for (let k = 0; k < count; k += 2) {
      const [one, two] = [basis[k], basis[k + 1]];
      let a = 0;
      let b = 0;
      for (let j = j0; j < j1; j++) {
        const end = j * n + i1;
        for (let p = j * n + i0; p < end; p++) {
          a += one[p] * current[p];
          b += two[p] * current[p];
        }
      }
      moments[k] = a;
      moments[k + 1] = b;
    }
    for (let r = 0; r < count; r++) {
      let sum = 0;
      for (let c = 0; c < count; c++) sum += inverseNormal[r * count + c] * moments[c];
      solution[r] = sum;
    }
  }

  /** The correlation with what was sampled last, and what gain and offset leave of it, over all and in each of nine cells. */
  private judge(
    { i0, i1, j0, j1 }: Window,
    inverseNormal: Float64Array,
    shape: Shape,
  ): { score: number; error: number; uneven: number } {
    const { values } = this.patch;
    const { current } = this;
    const n = 2 * this.patch.hw + 1;
    let sa = 0;
    let saa = 0;
    let sb = 0;
    let sbb = 0;
    let sab = 0;
    for (let j = j0; j < j1; j++) {
      for (let p = j * n + i0; p < j * n + i1; p++) {
        const a = values[p];
        const b = current[p];
        sa += a;
        saa += a * a;
        sb += b;
        sbb += b * b;
        sab += a * b;
      }
    }
    const count = (i1 - i0) * (j1 - j0);
    const va = saa - (sa * sa) / count;
    const vab = sab - (sa * sb) / count;
    const gain = va > 0 ? vab / va : 0;
    const offset = (sb - gain * sa) / count;
    cells.fill(0);
    sizes.fill(0);
    for (let j = j0; j < j1; j++) {
      const row = (((j - j0) * 3) / (j1 - j0)) | 0;
      for (let third = 0; third < 3; third++) {
        const from = (i0 + ((i1 - i0) * third) / 3) | 0;
        const to = (i0 + ((i1 - i0) * (third + 1)) / 3) | 0;
        let sum = 0;
        for (let p = j * n + from; p < j * n + to; p++) {
          const r = current[p] - gain * values[p] - offset;
          sum += r * r;
        }
        cells[3 * row + third] += sum;
        sizes[3 * row + third] += to - from;
      }
    }
    let residual = 0;
    for (let k = 0; k < 9; k++) {
      residual += cells[k];
      cells[k] /= Math.max(1, sizes[k]);
    }
    cells.sort();
    const m = this.basis.length;
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
    const { basis } = this;
    const n = 2 * this.patch.hw + 1;
    const count = basis.length;
    const normal = Matrix.zeros(count, count);
    for (let a = 0; a < count; a++) {
      for (let b = 0; b <= a; b++) {
        let sum = 0;
        for (let j = j0; j < j1; j++) {
          for (let p = j * n + i0; p < j * n + i1; p++) sum += basis[a][p] * basis[b][p];
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

/** Steepest descent images of the motions that are allowed, then the patch and a constant. */
function basisOf({ hw, hh, values }: Patch, allow: Allow): Float64Array[] {
  const n = 2 * hw + 1;
  const m = 2 * hh + 1;
  const image = (value: (p: number, u: number, v: number) => number) =>
    Float64Array.from(values, (_, p) => value(p, (p % n) - hw, Math.floor(p / n) - hh));
  const gx = image((p, u) => {
    const [l, r] = [u > -hw ? p - 1 : p, u < hw ? p + 1 : p];
    return (values[r] - values[l]) / (r - l || 1);
  });
  const gy = image((p, _, v) => {
    const [above, below] = [v > -hh ? p - n : p, v < m - 1 - hh ? p + n : p];
    return (values[below] - values[above]) / ((below - above) / n || 1);
  });
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
