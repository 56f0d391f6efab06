import { inverse, Matrix } from 'ml-matrix';
import type { Plane } from '../picture/plane.js';
import { sampleGrid, sampleShaped, UPRIGHT, type Shape } from '../picture/sampling.js';
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

/** Where a patch was found to sub-pixel precision. */
export interface Alignment extends Pose {
  /** Normalised cross-correlation there. */
  readonly score: number;
  /** False when the iteration ran off or did not settle. */
  readonly converged: boolean;
}

interface Window {
  readonly i0: number;
  readonly i1: number;
  readonly j0: number;
  readonly j1: number;
}

/** Below this step, in samples at the patch's rim, the iteration has settled. */
const SETTLED = 0.003;
const MOST_STEPS = 30;
/** A shape whose area has changed by more than this ratio to either side has run off. */
const LARGEST_GROWTH = 4;

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
  private readonly whole: Float64Array | null;
  private readonly fullWindow: Window;

  constructor(
    readonly patch: Patch,
    readonly allow: Allow,
  ) {
    const { hw, hh, values } = patch;
    const n = 2 * hw + 1;
    const m = 2 * hh + 1;
    this.basis = basisOf(patch, allow);
    this.current = new Float64Array(values.length);
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
   * Cost: about twenty multiply-adds a place and step; three to eight steps as a rule.
   */
  align(plane: Plane, guess: Pose, limit: number): Alignment | null {
    const window = this.insideWindow(plane, guess.x, guess.y);
    if (!window) return null;
    const inverseNormal = window === this.fullWindow ? this.whole : this.inverseNormal(window);
    if (!inverseNormal) return null;
    const { basis, allow } = this;
    const { hw, hh } = this.patch;
    const count = basis.length;
    const moments = new Float64Array(count);
    const solution = new Float64Array(count);
    let { x, y, shape } = guess;
    let converged = false;
    for (let step = 0; step < MOST_STEPS; step++) {
      this.sample(plane, x, y, shape);
      this.project(window, moments);
      for (let r = 0; r < count; r++) {
        let sum = 0;
        for (let c = 0; c < count; c++) sum += inverseNormal[r * count + c] * moments[c];
        solution[r] = sum;
      }
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
      shape = product(shape, inverseD);
      x -= shape[0] * tx + shape[1] * ty;
      y -= shape[2] * tx + shape[3] * ty;
      const area = shape[0] * shape[3] - shape[1] * shape[2];
      if (
        Math.hypot(x - guess.x, y - guess.y) > limit ||
        !(area > 1 / LARGEST_GROWTH && area < LARGEST_GROWTH)
      )
        break;
      const rim =
        Math.max(Math.abs(d[0] - 1), Math.abs(d[1]), Math.abs(d[2]), Math.abs(d[3] - 1)) * Math.max(hw, hh);
      if (length + 0.5 * rim < SETTLED) {
        converged = true;
        break;
      }
    }
    this.sample(plane, x, y, shape);
    return { x, y, shape, score: this.scoreOf(window), converged };
  }

  private sample(plane: Plane, x: number, y: number, shape: Shape): void {
    const { hw, hh } = this.patch;
    if (this.allow === 'shift' && shape === UPRIGHT) sampleGrid(plane, x, y, hw, hh, this.current);
    else sampleShaped(plane, x, y, shape, hw, hh, this.current);
  }

  /** Products of the current picture with every image of the basis, over the window. */
  private project({ i0, i1, j0, j1 }: Window, moments: Float64Array): void {
    const { current } = this;
    const n = 2 * this.patch.hw + 1;
    for (let k = 0; k < this.basis.length; k++) {
      const image = this.basis[k];
      let sum = 0;
      for (let j = j0; j < j1; j++) {
        const end = j * n + i1;
        for (let p = j * n + i0; p < end; p++) sum += image[p] * current[p];
      }
      moments[k] = sum;
    }
  }

  private scoreOf({ i0, i1, j0, j1 }: Window): number {
    const { values } = this.patch;
    const n = 2 * this.patch.hw + 1;
    let sa = 0;
    let saa = 0;
    let sb = 0;
    let sbb = 0;
    let sab = 0;
    for (let j = j0; j < j1; j++) {
      for (let p = j * n + i0; p < j * n + i1; p++) {
        const a = values[p];
        const b = this.current[p];
        sa += a;
        saa += a * a;
        sb += b;
        sbb += b * b;
        sab += a * b;
      }
    }
    return score((i1 - i0) * (j1 - j0), sa, saa, sb, sbb, sab);
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

function product(a: Shape, b: Shape): Shape {
  if (b === UPRIGHT) return a;
  return [
    a[0] * b[0] + a[1] * b[2],
    a[0] * b[1] + a[1] * b[3],
    a[2] * b[0] + a[3] * b[2],
    a[2] * b[1] + a[3] * b[3],
  ];
}
