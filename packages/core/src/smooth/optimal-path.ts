import { bandedMatrix, factorise, solveFactorised } from './banded.js';

/** Linear limits on the values of one frame: `row . value <= bound` for each of `count` rows. */
export interface PathLimits {
  /** Rows for each frame. */
  readonly count: number;
  /** Coefficients: frame, row, component. */
  readonly rows: Float64Array;
  /** Bounds: frame, row. */
  readonly bounds: Float64Array;
}

export interface PathProblem {
  readonly frames: number;
  readonly components: number;
  /** Where to begin, frame by frame, component by component; within the limits if it can be. */
  readonly start: Float64Array;
  readonly limits: PathLimits;
  /** What the first, second and third differences weigh. */
  readonly weights: readonly [number, number, number];
  /** The gap between primal and dual, for each inequality and in units of the values, that is good enough. */
  readonly gap: number;
}

/** Weights of the first, second and third difference (Grundmann, Kwatra and Essa 2011, section 3.4). */
export const PATH_WEIGHTS = [10, 1, 100] as const;

/** The differences as taps, the oldest value first. */
const TAPS = [
  [-1, 1],
  [1, -2, 1],
  [-1, 3, -3, 1],
] as const;
const MOST_ROUNDS = 80;
/** How far towards the boundary a step goes. */
const STEP = 0.995;

/**
 * The path whose first, second and third differences have the least weighted sum of magnitudes within linear limits
 * on each frame: pieces of standing still, of constant speed and of constant acceleration, as a camera on tripod,
 * dolly and crane would go (Grundmann, Kwatra and Essa, "Auto-directed video stabilization with robust L1 optimal
 * camera paths", CVPR 2011, equation 4).
 *
 * Solved as a linear program by Mehrotra's predictor-corrector interior-point method. The slacks of the magnitudes
 * are eliminated as in l1 trend filtering (Kim, Koh, Boyd and Gorinevsky 2009), so that each round factorises one
 * banded matrix. Cost: frames x rounds; a few dozen rounds whatever the length.
 *
 * @returns values in the order of `start`
 */
export function optimalPath(problem: PathProblem): Float64Array {
  return new InteriorPoint(problem).solve();
}

class InteriorPoint {
  private readonly w: Float64Array;
  private readonly terms: Terms;
  private readonly walls: Walls;

  constructor(private readonly problem: PathProblem) {
    this.w = problem.start.slice();
    this.terms = new Terms(problem, this.w);
    this.walls = new Walls(problem, this.w);
  }

  solve(): Float64Array {
    const { w, terms, walls, problem } = this;
    const size = w.length;
    const matrix = bandedMatrix(size, 3 * problem.components + problem.components - 1);
    const gradient = new Float64Array(size);
    const step = new Float64Array(size);
    for (let round = 0; round < MOST_ROUNDS; round++) {
      const gap = (terms.gap() + walls.gap()) / (terms.pairs + walls.pairs);
      if (gap < problem.gap && walls.violation() < 1e-6) break;
      matrix.data.fill(0);
      terms.addTo(matrix.data, matrix.band);
      walls.addTo(matrix.data, matrix.band);
      for (let i = 0; i < size; i++) matrix.data[i * (matrix.band + 1)] += 1e-9;
      factorise(matrix);
      gradient.fill(0);
      terms.dualResidual(gradient);
      walls.dualResidual(gradient);

      const direction = (target: number, correct: boolean) => {
        for (let i = 0; i < size; i++) step[i] = -gradient[i];
        terms.aim(target, correct, step);
        walls.aim(target, correct, step);
        solveFactorised(matrix, step);
        terms.follow(step);
        walls.follow(step);
      };
      direction(0, false);
      const primal = Math.min(terms.primalStep(), walls.primalStep());
      const dual = Math.min(terms.dualStep(), walls.dualStep());
      const ahead =
        (terms.gapAfter(primal, dual) + walls.gapAfter(primal, dual)) / (terms.pairs + walls.pairs);
      direction(gap * Math.min(1, ahead / gap) ** 3, true);
      const p = Math.min(1, STEP * Math.min(terms.primalStep(), walls.primalStep()));
      const d = Math.min(1, STEP * Math.min(terms.dualStep(), walls.dualStep()));
      for (let i = 0; i < size; i++) w[i] += p * step[i];
      terms.move(p, d, w);
      walls.move(p, d, w);
      if (p < 1e-10 && d < 1e-10) break;
    }
    return w;
  }
}

/** The magnitudes |D w| <= e: slacks s1 = e - D w and s2 = e + D w with their multipliers u1 and u2. */
class Terms {
  readonly pairs: number;
  private readonly count: number;
  private readonly first: Int32Array;
  private readonly order: Uint8Array;
  private readonly r: Float64Array;
  private readonly e: Float64Array;
  private readonly u1: Float64Array;
  private readonly u2: Float64Array;
  private readonly dr: Float64Array;
  private readonly de: Float64Array;
  private readonly du1: Float64Array;
  private readonly du2: Float64Array;
  private readonly c1: Float64Array;
  private readonly c2: Float64Array;
  private readonly stride: number;

  constructor({ frames, components, weights }: PathProblem, w: Float64Array) {
    this.stride = components;
    const starts: number[] = [];
    const orders: number[] = [];
    for (let order = 0; order < 3; order++) {
      if (weights[order] === 0) continue;
      for (let f = 0; f + order + 1 < frames; f++) {
        for (let c = 0; c < components; c++) {
          starts.push(f * components + c);
          orders.push(order);
        }
      }
    }
    this.count = starts.length;
    this.pairs = 2 * this.count;
    this.first = Int32Array.from(starts);
    this.order = Uint8Array.from(orders);
    const column = () => new Float64Array(this.count);
    this.r = column();
    this.differences(w, this.r);
    this.e = this.r.map((v) => Math.abs(v) + 1);
    this.u1 = Float64Array.from(this.order, (o) => weights[o] / 2);
    this.u2 = this.u1.slice();
    this.weight = Float64Array.from(this.order, (o) => weights[o]);
    [this.dr, this.de, this.du1, this.du2] = [column(), column(), column(), column()];
    [this.c1, this.c2] = [column(), column()];
  }
  private readonly weight: Float64Array;

  private differences(w: Float64Array, out: Float64Array): void {
    const n = this.stride;
    for (let t = 0; t < this.count; t++) {
      const taps = TAPS[this.order[t]];
      const i = this.first[t];
      let sum = 0;
      for (let k = 0; k < taps.length; k++) sum += taps[k] * w[i + k * n];
      out[t] = sum;
    }
  }

  gap(): number {
    let sum = 0;
    for (let t = 0; t < this.count; t++) {
      sum += this.u1[t] * (this.e[t] - this.r[t]) + this.u2[t] * (this.e[t] + this.r[t]);
    }
    return sum;
  }

  gapAfter(p: number, d: number): number {
    let sum = 0;
    for (let t = 0; t < this.count; t++) {
      const e = this.e[t] + p * this.de[t];
      const r = this.r[t] + p * this.dr[t];
      sum += (this.u1[t] + d * this.du1[t]) * (e - r) + (this.u2[t] + d * this.du2[t]) * (e + r);
    }
    return sum;
  }

  addTo(data: Float64Array, band: number): void {
    const n = this.stride;
    for (let t = 0; t < this.count; t++) {
      const p = this.u1[t] / (this.e[t] - this.r[t]);
      const q = this.u2[t] / (this.e[t] + this.r[t]);
      const h = (4 * p * q) / (p + q);
      const taps = TAPS[this.order[t]];
      const i = this.first[t];
      for (let a = 0; a < taps.length; a++) {
        const row = (i + a * n) * (band + 1);
        for (let b = 0; b <= a; b++) data[row + (a - b) * n] += h * taps[a] * taps[b];
      }
    }
  }

  private scatter(out: Float64Array, t: number, value: number): void {
    const taps = TAPS[this.order[t]];
    const i = this.first[t];
    for (let k = 0; k < taps.length; k++) out[i + k * this.stride] += taps[k] * value;
  }

  dualResidual(out: Float64Array): void {
    for (let t = 0; t < this.count; t++) this.scatter(out, t, this.u1[t] - this.u2[t]);
  }

  /** Takes this part of the right-hand side off `step`, for complementarity `target`. */
  aim(target: number, correct: boolean, step: Float64Array): void {
    for (let t = 0; t < this.count; t++) {
      const s1 = this.e[t] - this.r[t];
      const s2 = this.e[t] + this.r[t];
      let c1 = target - this.u1[t] * s1;
      let c2 = target - this.u2[t] * s2;
      if (correct) {
        c1 -= this.du1[t] * (this.de[t] - this.dr[t]);
        c2 -= this.du2[t] * (this.de[t] + this.dr[t]);
      }
      this.c1[t] = c1;
      this.c2[t] = c2;
      const p = this.u1[t] / s1;
      const q = this.u2[t] / s2;
      const re = this.weight[t] - this.u1[t] - this.u2[t];
      const b = c1 / s1 + c2 / s2 - re;
      this.scatter(step, t, -(c1 / s1 - c2 / s2 - ((p - q) / (p + q)) * b));
    }
  }

  follow(step: Float64Array): void {
    this.differences(step, this.dr);
    for (let t = 0; t < this.count; t++) {
      const s1 = this.e[t] - this.r[t];
      const s2 = this.e[t] + this.r[t];
      const p = this.u1[t] / s1;
      const q = this.u2[t] / s2;
      const re = this.weight[t] - this.u1[t] - this.u2[t];
      const dr = this.dr[t];
      const de = (this.c1[t] / s1 + this.c2[t] / s2 - re + (p - q) * dr) / (p + q);
      this.de[t] = de;
      this.du1[t] = this.c1[t] / s1 - p * (de - dr);
      this.du2[t] = this.c2[t] / s2 - q * (de + dr);
    }
  }

  primalStep(): number {
    let most = Infinity;
    for (let t = 0; t < this.count; t++) {
      const d1 = this.de[t] - this.dr[t];
      const d2 = this.de[t] + this.dr[t];
      if (d1 < 0) most = Math.min(most, (this.r[t] - this.e[t]) / d1);
      if (d2 < 0) most = Math.min(most, -(this.e[t] + this.r[t]) / d2);
    }
    return most;
  }

  dualStep(): number {
    let most = Infinity;
    for (let t = 0; t < this.count; t++) {
      if (this.du1[t] < 0) most = Math.min(most, -this.u1[t] / this.du1[t]);
      if (this.du2[t] < 0) most = Math.min(most, -this.u2[t] / this.du2[t]);
    }
    return most;
  }

  move(p: number, d: number, w: Float64Array): void {
    this.differences(w, this.r);
    for (let t = 0; t < this.count; t++) {
      // Rounding must not let a slack reach zero.
      this.e[t] = Math.max(this.e[t] + p * this.de[t], Math.abs(this.r[t]) * (1 + 1e-14) + 1e-14);
      this.u1[t] += d * this.du1[t];
      this.u2[t] += d * this.du2[t];
    }
  }
}

/** The limits row . w <= bound: slacks v with their multipliers y. */
class Walls {
  readonly pairs: number;
  private readonly v: Float64Array;
  private readonly y: Float64Array;
  private readonly dv: Float64Array;
  private readonly dy: Float64Array;
  private readonly c: Float64Array;
  /** By how much row . w + v misses the bound. */
  private readonly miss: Float64Array;
  private readonly n: number;

  constructor(
    private readonly problem: PathProblem,
    w: Float64Array,
  ) {
    this.n = problem.components;
    this.pairs = problem.frames * problem.limits.count;
    const column = () => new Float64Array(this.pairs);
    [this.v, this.y, this.dv, this.dy, this.c, this.miss] = [1, 2, 3, 4, 5, 6].map(column);
    for (let k = 0; k < this.pairs; k++) {
      this.v[k] = Math.max(1, problem.limits.bounds[k] - this.along(k, w));
      this.y[k] = 1 / this.v[k];
    }
    this.remiss(w);
  }

  private along(k: number, w: Float64Array): number {
    const { rows, count } = this.problem.limits;
    const at = Math.floor(k / count) * this.n;
    let sum = 0;
    for (let c = 0; c < this.n; c++) sum += rows[k * this.n + c] * w[at + c];
    return sum;
  }

  private remiss(w: Float64Array): void {
    const { bounds } = this.problem.limits;
    for (let k = 0; k < this.pairs; k++) this.miss[k] = bounds[k] - this.along(k, w) - this.v[k];
  }

  gap(): number {
    let sum = 0;
    for (let k = 0; k < this.pairs; k++) sum += this.v[k] * this.y[k];
    return sum;
  }

  gapAfter(p: number, d: number): number {
    let sum = 0;
    for (let k = 0; k < this.pairs; k++) sum += (this.v[k] + p * this.dv[k]) * (this.y[k] + d * this.dy[k]);
    return sum;
  }

  violation(): number {
    let most = 0;
    for (let k = 0; k < this.pairs; k++) most = Math.max(most, Math.abs(this.miss[k]));
    return most;
  }

  addTo(data: Float64Array, band: number): void {
    const { rows, count } = this.problem.limits;
    for (let k = 0; k < this.pairs; k++) {
      const h = this.y[k] / this.v[k];
      const at = Math.floor(k / count) * this.n;
      for (let a = 0; a < this.n; a++) {
        const row = (at + a) * (band + 1);
        for (let b = 0; b <= a; b++) data[row + a - b] += h * rows[k * this.n + a] * rows[k * this.n + b];
      }
    }
  }

  private scatter(out: Float64Array, k: number, value: number): void {
    const { rows, count } = this.problem.limits;
    const at = Math.floor(k / count) * this.n;
    for (let c = 0; c < this.n; c++) out[at + c] += rows[k * this.n + c] * value;
  }

  dualResidual(out: Float64Array): void {
    for (let k = 0; k < this.pairs; k++) this.scatter(out, k, this.y[k]);
  }

  aim(target: number, correct: boolean, step: Float64Array): void {
    for (let k = 0; k < this.pairs; k++) {
      let c = target - this.v[k] * this.y[k];
      if (correct) c -= this.dv[k] * this.dy[k];
      this.c[k] = c;
      this.scatter(step, k, -(c / this.v[k] - (this.y[k] / this.v[k]) * this.miss[k]));
    }
  }

  follow(step: Float64Array): void {
    for (let k = 0; k < this.pairs; k++) {
      this.dv[k] = this.miss[k] - this.along(k, step);
      this.dy[k] = (this.c[k] - this.y[k] * this.dv[k]) / this.v[k];
    }
  }

  primalStep(): number {
    return longest(this.v, this.dv);
  }

  dualStep(): number {
    return longest(this.y, this.dy);
  }

  move(p: number, d: number, w: Float64Array): void {
    for (let k = 0; k < this.pairs; k++) {
      this.v[k] += p * this.dv[k];
      this.y[k] += d * this.dy[k];
    }
    this.remiss(w);
  }
}

/** How far values may follow their steps before one of them reaches zero. */
function longest(values: Float64Array, steps: Float64Array): number {
  let most = Infinity;
  for (let k = 0; k < values.length; k++) if (steps[k] < 0) most = Math.min(most, -values[k] / steps[k]);
  return most;
}
