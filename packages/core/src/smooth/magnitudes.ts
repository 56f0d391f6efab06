import type { Banded } from '../geometry/banded.js';
import type { Inequalities, PathProblem } from './path-problem.js';

/** Orders of the differences that are weighed: first, second, third. */
export const PATH_ORDERS = 3;

/** The differences as taps, the oldest value first. */
const TAPS = [
  [-1, 1],
  [1, -2, 1],
  [-1, 3, -3, 1],
] as const;

/** The difference of an order at value `i`, with `n` values a frame. */
function difference(order: number, w: Float64Array, i: number, n: number): number {
  if (order === 0) return w[i + n] - w[i];
  if (order === 1) return w[i] - 2 * w[i + n] + w[i + 2 * n];
  return w[i + 3 * n] - w[i] + 3 * (w[i + n] - w[i + 2 * n]);
}

/** Adds the difference's taps times `value`. */
function scatter(order: number, out: Float64Array, i: number, n: number, value: number): void {
  if (order === 0) {
    out[i] -= value;
    out[i + n] += value;
  } else if (order === 1) {
    out[i] += value;
    out[i + n] -= 2 * value;
    out[i + 2 * n] += value;
  } else {
    out[i] -= value;
    out[i + n] += 3 * value;
    out[i + 2 * n] -= 3 * value;
    out[i + 3 * n] += value;
  }
}

/**
 * The magnitudes |D w| <= e, weighed: slacks e - D w and e + D w with multipliers u and weight - u. That the two
 * multipliers make up the weight is what e's own optimality asks; it holds from the start.
 */
export class Magnitudes implements Inequalities {
  readonly pairs: number;
  private readonly orders: readonly Order[];

  constructor(problem: PathProblem) {
    this.orders = problem.weights.flatMap((weight, order) =>
      weight > 0 && problem.frames > order + 1 ? [new Order(problem, order, weight)] : [],
    );
    this.pairs = this.orders.reduce((n, o) => n + 2 * o.count, 0);
  }

  assemble(matrix: Banded, gradient: Float64Array): number {
    return this.orders.reduce((gap, o) => gap + o.assemble(matrix, gradient), 0);
  }

  aim(target: number, correct: boolean, step: Float64Array): void {
    for (const o of this.orders) o.aim(target, correct, step);
  }

  follow(step: Float64Array): { primal: number; dual: number } {
    const far = this.orders.map((o) => o.follow(step));
    return {
      primal: Math.min(Infinity, ...far.map((f) => f.primal)),
      dual: Math.min(Infinity, ...far.map((f) => f.dual)),
    };
  }

  gapAfter(primal: number, dual: number): number {
    return this.orders.reduce((gap, o) => gap + o.gapAfter(primal, dual), 0);
  }

  move(primal: number, dual: number): void {
    for (const o of this.orders) o.move(primal, dual);
  }

  violation(): number {
    return 0;
  }
}

/** All differences of one order. */
class Order {
  readonly count: number;
  private readonly n: number;
  /** Slacks e - D w and e + D w, the first one's multiplier, and their steps. */
  private readonly s1: Float64Array;
  private readonly s2: Float64Array;
  private readonly u: Float64Array;
  private readonly ds1: Float64Array;
  private readonly ds2: Float64Array;
  private readonly du: Float64Array;
  /** What complementarity is off by, over the slack. */
  private readonly c1: Float64Array;
  private readonly c2: Float64Array;

  constructor(
    { frames, components, start }: PathProblem,
    private readonly order: number,
    private readonly weight: number,
  ) {
    this.n = components;
    this.count = (frames - order - 1) * components;
    const column = () => new Float64Array(this.count);
    [this.s1, this.s2, this.u, this.ds1, this.ds2, this.du, this.c1, this.c2] = Array.from(
      { length: 8 },
      column,
    );
    this.u.fill(weight / 2);
    for (let t = 0; t < this.count; t++) {
      const r = difference(order, start, t, components);
      const e = Math.abs(r) + 1;
      this.s1[t] = e - r;
      this.s2[t] = e + r;
    }
  }

  assemble({ data, band }: Banded, gradient: Float64Array): number {
    const { s1, s2, u, weight, order, n, count } = this;
    const taps = TAPS[order];
    let gap = 0;
    for (let t = 0; t < count; t++) {
      const [u1, u2] = [u[t], weight - u[t]];
      gap += u1 * s1[t] + u2 * s2[t];
      const p = u1 / s1[t];
      const q = u2 / s2[t];
      const h = (4 * p * q) / (p + q);
      for (let a = 0; a < taps.length; a++) {
        const row = (t + a * n) * (band + 1);
        for (let b = 0; b <= a; b++) data[row + (a - b) * n] += h * taps[a] * taps[b];
      }
      scatter(order, gradient, t, n, u1 - u2);
    }
    return gap;
  }

  aim(target: number, correct: boolean, step: Float64Array): void {
    const { s1, s2, u, ds1, ds2, du, c1, c2, weight, order, n, count } = this;
    const second = correct ? 1 : 0;
    for (let t = 0; t < count; t++) {
      const [u1, u2] = [u[t], weight - u[t]];
      const a = (target - second * du[t] * ds1[t]) / s1[t] - u1;
      const b = (target + second * du[t] * ds2[t]) / s2[t] - u2;
      c1[t] = a;
      c2[t] = b;
      const p = u1 / s1[t];
      const q = u2 / s2[t];
      scatter(order, step, t, n, b - a + ((p - q) / (p + q)) * (a + b));
    }
  }

  follow(step: Float64Array): { primal: number; dual: number } {
    const { s1, s2, u, ds1, ds2, du, c1, c2, weight, order, n, count } = this;
    let primal = 0;
    let dual = 0;
    for (let t = 0; t < count; t++) {
      const u1 = u[t];
      const u2 = weight - u1;
      const p = u1 / s1[t];
      const q = u2 / s2[t];
      const dr = difference(order, step, t, n);
      const de = (c1[t] + c2[t] + (p - q) * dr) / (p + q);
      const d1 = de - dr;
      const d2 = de + dr;
      const d = c1[t] - p * d1;
      ds1[t] = d1;
      ds2[t] = d2;
      du[t] = d;
      primal = Math.max(primal, -d1 / s1[t], -d2 / s2[t]);
      dual = Math.max(dual, -d / u1, d / u2);
    }
    return { primal: 1 / primal, dual: 1 / dual };
  }

  gapAfter(primal: number, dual: number): number {
    const { s1, s2, u, ds1, ds2, du, weight, count } = this;
    let gap = 0;
    for (let t = 0; t < count; t++) {
      const u1 = u[t] + dual * du[t];
      gap += u1 * (s1[t] + primal * ds1[t]) + (weight - u1) * (s2[t] + primal * ds2[t]);
    }
    return gap;
  }

  move(primal: number, dual: number): void {
    const { s1, s2, u, ds1, ds2, du, count } = this;
    for (let t = 0; t < count; t++) {
      s1[t] += primal * ds1[t];
      s2[t] += primal * ds2[t];
      u[t] += dual * du[t];
    }
  }
}
