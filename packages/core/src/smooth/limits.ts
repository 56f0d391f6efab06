import type { Banded } from '../geometry/banded.js';
import type { Inequalities, PathProblem } from './path-problem.js';

/**
 * Slacks v and multipliers y of inequalities a . w + v = bound, and what they still miss it by. What a . w is, and how
 * it enters the normal matrix, the kinds below tell.
 */
abstract class Slacks implements Inequalities {
  protected readonly v: Float64Array;
  protected readonly y: Float64Array;
  private readonly dv: Float64Array;
  private readonly dy: Float64Array;
  private readonly c: Float64Array;
  private readonly miss: Float64Array;
  /** A column for a . w, or for what its transpose is applied to. */
  private readonly along: Float64Array;

  constructor(readonly pairs: number) {
    const column = () => new Float64Array(pairs);
    [this.v, this.y, this.dv, this.dy, this.c, this.miss, this.along] = Array.from({ length: 7 }, column);
  }

  /** out = a . w */
  protected abstract apply(w: Float64Array, out: Float64Array): void;
  /** out += a' . values */
  protected abstract applyTransposed(values: Float64Array, out: Float64Array): void;
  /** matrix += a' diag(y / v) a */
  protected abstract addTo(matrix: Banded): void;

  protected begin(w: Float64Array, bounds: Float64Array): void {
    const { along, v, y, miss } = this;
    this.apply(w, along);
    for (let k = 0; k < v.length; k++) {
      v[k] = Math.max(1, bounds[k] - along[k]);
      y[k] = 1 / v[k];
      miss[k] = bounds[k] - along[k] - v[k];
    }
  }

  assemble(matrix: Banded, gradient: Float64Array): number {
    const { v, y } = this;
    this.addTo(matrix);
    this.applyTransposed(y, gradient);
    let gap = 0;
    for (let k = 0; k < v.length; k++) gap += v[k] * y[k];
    return gap;
  }

  aim(target: number, correct: boolean, step: Float64Array): void {
    const { v, y, dv, dy, c, miss, along } = this;
    const second = correct ? 1 : 0;
    for (let k = 0; k < v.length; k++) {
      const off = target - v[k] * y[k] - second * dv[k] * dy[k];
      c[k] = off;
      along[k] = (y[k] * miss[k] - off) / v[k];
    }
    this.applyTransposed(along, step);
  }

  follow(step: Float64Array): { primal: number; dual: number } {
    const { v, y, dv, dy, c, miss, along } = this;
    this.apply(step, along);
    let primal = 0;
    let dual = 0;
    for (let k = 0; k < v.length; k++) {
      const d = miss[k] - along[k];
      const e = (c[k] - y[k] * d) / v[k];
      dv[k] = d;
      dy[k] = e;
      primal = Math.max(primal, -d / v[k]);
      dual = Math.max(dual, -e / y[k]);
    }
    return { primal: 1 / primal, dual: 1 / dual };
  }

  gapAfter(primal: number, dual: number): number {
    const { v, y, dv, dy } = this;
    let gap = 0;
    for (let k = 0; k < v.length; k++) gap += (v[k] + primal * dv[k]) * (y[k] + dual * dy[k]);
    return gap;
  }

  move(primal: number, dual: number): void {
    const { v, y, dv, dy, miss } = this;
    for (let k = 0; k < v.length; k++) {
      v[k] += primal * dv[k];
      y[k] += dual * dy[k];
      miss[k] *= 1 - primal;
    }
  }

  violation(): number {
    return this.miss.reduce((most, m) => Math.max(most, Math.abs(m)), 0);
  }
}

/** Every value between its least and its largest: the upper bounds first, then the lower ones. */
export class Box extends Slacks {
  constructor({ start, low, high }: PathProblem) {
    const n = start.length;
    super(2 * n);
    const bounds = new Float64Array(2 * n);
    bounds.set(high);
    for (let i = 0; i < n; i++) bounds[n + i] = -low[i];
    this.begin(start, bounds);
  }

  protected apply(w: Float64Array, out: Float64Array): void {
    const n = w.length;
    out.set(w);
    for (let i = 0; i < n; i++) out[n + i] = -w[i];
  }

  protected applyTransposed(values: Float64Array, out: Float64Array): void {
    const n = out.length;
    for (let i = 0; i < n; i++) out[i] += values[i] - values[n + i];
  }

  protected addTo({ data, band, size }: Banded): void {
    const { v, y } = this;
    for (let i = 0; i < size; i++) data[i * (band + 1)] += y[i] / v[i] + y[size + i] / v[size + i];
  }
}

/** The limits of each frame: rows over its values. */
export class Limits extends Slacks {
  private readonly rows: Float64Array;
  private readonly count: number;
  private readonly n: number;
  private readonly frames: number;

  constructor({ frames, components, limits, start }: PathProblem) {
    super(frames * limits.count);
    this.rows = limits.rows;
    this.count = limits.count;
    this.n = components;
    this.frames = frames;
    this.begin(start, limits.bounds);
  }

  protected apply(w: Float64Array, out: Float64Array): void {
    const { rows, count, n, frames } = this;
    for (let f = 0, k = 0, r = 0; f < frames; f++) {
      const end = k + count;
      for (; k < end; k++) {
        let sum = 0;
        for (let c = 0; c < n; c++) sum += rows[r++] * w[f * n + c];
        out[k] = sum;
      }
    }
  }

  protected applyTransposed(values: Float64Array, out: Float64Array): void {
    const { rows, count, n, frames } = this;
    for (let f = 0, k = 0, r = 0; f < frames; f++) {
      const end = k + count;
      for (; k < end; k++) {
        for (let c = 0; c < n; c++) out[f * n + c] += rows[r++] * values[k];
      }
    }
  }

  protected addTo({ data, band }: Banded): void {
    const { rows, count, n, frames, v, y } = this;
    for (let f = 0, k = 0, r = 0; f < frames; f++) {
      const end = k + count;
      for (; k < end; k++, r += n) {
        const h = y[k] / v[k];
        for (let a = 0; a < n; a++) {
          const at = (f * n + a) * (band + 1) + a;
          const ha = h * rows[r + a];
          for (let b = 0; b <= a; b++) data[at - b] += ha * rows[r + b];
        }
      }
    }
  }
}
