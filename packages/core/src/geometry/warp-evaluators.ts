import { evenRow } from '@lurn/kernels';
import { apply, isAffine, type Matrix3, type Point } from './matrix.js';
import type { MeshWarp } from './mesh-warp.js';

/** Where places behind the camera are said to lie: far outside any picture. */
export const NOWHERE = -1e6;

/** How a warp is asked. */
export interface WarpEvaluator {
  at(x: number, y: number): Point;
  /** Where (x0, y), (x0 + 1, y) ... up to but without (x1, y) go; written from the arrays' beginnings. */
  row(y: number, x0: number, x1: number, xs: Float64Array, ys: Float64Array): void;
  /** Square root of the area that it magnifies by at a place. */
  scaleAt(x: number, y: number): number;
}

/** One place after another. */
export class ChainedEvaluator implements WarpEvaluator {
  constructor(
    private readonly first: WarpEvaluator,
    private readonly then: WarpEvaluator,
  ) {}

  at(x: number, y: number): Point {
    const p = this.first.at(x, y);
    return this.then.at(p.x, p.y);
  }

  row(y: number, x0: number, x1: number, xs: Float64Array, ys: Float64Array): void {
    this.first.row(y, x0, x1, xs, ys);
    const n = Math.round(x1 - x0);
    for (let i = 0; i < n; i++) {
      const p = this.then.at(xs[i], ys[i]);
      xs[i] = p.x;
      ys[i] = p.y;
    }
  }

  scaleAt(x: number, y: number): number {
    const p = this.first.at(x, y);
    return this.first.scaleAt(x, y) * this.then.scaleAt(p.x, p.y);
  }
}

export class MatrixEvaluator implements WarpEvaluator {
  private readonly determinant: number;

  constructor(private readonly m: Matrix3) {
    const [a, b, c, d, e, f, g, h, i] = m;
    this.determinant = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  }

  at(x: number, y: number): Point {
    const { m } = this;
    return m[6] * x + m[7] * y + m[8] > 0 ? apply(m, x, y) : { x: NOWHERE, y: NOWHERE };
  }

  row(y: number, x0: number, x1: number, xs: Float64Array, ys: Float64Array): void {
    const { m } = this;
    const n = Math.round(x1 - x0);
    let xn = m[0] * x0 + m[1] * y + m[2];
    let yn = m[3] * x0 + m[4] * y + m[5];
    if (isAffine(m)) {
      const scale = 1 / m[8];
      xn *= scale;
      yn *= scale;
      evenRow(xn, m[0] * scale, n, xs);
      evenRow(yn, m[3] * scale, n, ys);
      return;
    }
    let w = m[6] * x0 + m[7] * y + m[8];
    for (let i = 0; i < n; i++, xn += m[0], yn += m[3], w += m[6]) {
      const inverse = 1 / w;
      xs[i] = w > 0 ? xn * inverse : NOWHERE;
      ys[i] = w > 0 ? yn * inverse : NOWHERE;
    }
  }

  /** The Jacobian's determinant of a homography is that of its matrix over w cubed. */
  scaleAt(x: number, y: number): number {
    const { m } = this;
    const w = m[6] * x + m[7] * y + m[8];
    return w > 0 ? Math.sqrt(Math.abs(this.determinant) / (w * w * w)) : Infinity;
  }
}

export class MeshEvaluator implements WarpEvaluator {
  private readonly square: MatrixEvaluator;

  constructor(private readonly mesh: MeshWarp) {
    this.square = new MatrixEvaluator(mesh.before);
  }

  at(x: number, y: number): Point {
    const p = this.square.at(x, y);
    if (p.x === NOWHERE) return p;
    const { u, v, k, below } = this.cell(p);
    const { to } = this.mesh;
    const of = (axis: 0 | 1) =>
      (1 - v) * ((1 - u) * to[k + axis] + u * to[k + 2 + axis]) +
      v * ((1 - u) * to[below + axis] + u * to[below + 2 + axis]);
    return { x: of(0), y: of(1) };
  }

  row(y: number, x0: number, x1: number, xs: Float64Array, ys: Float64Array): void {
    const n = Math.round(x1 - x0);
    this.square.row(y, x0, x1, xs, ys);
    const { columns, rows, to } = this.mesh;
    const wide = (2 * (columns + 1)) | 0;
    for (let i = 0; i < n; i++) {
      if (xs[i] === NOWHERE) continue;
      const gx = xs[i] * columns;
      const gy = ys[i] * rows;
      // Whole numbers that the compiler knows to be so: the loop takes half as long.
      const cx = gx < 0 ? 0 : gx >= columns ? (columns - 1) | 0 : gx | 0;
      const cy = gy < 0 ? 0 : gy >= rows ? (rows - 1) | 0 : gy | 0;
      const u = gx - cx;
      const v = gy - cy;
      const k = (Math.imul(cy, wide) + cx + cx) | 0;
      const b = (k + wide) | 0;
      const top = to[k] + u * (to[k + 2] - to[k]);
      const low = to[b] + u * (to[b + 2] - to[b]);
      const topY = to[k + 1] + u * (to[k + 3] - to[k + 1]);
      const lowY = to[b + 1] + u * (to[b + 3] - to[b + 1]);
      xs[i] = top + v * (low - top);
      ys[i] = topY + v * (lowY - topY);
    }
  }

  scaleAt(x: number, y: number): number {
    const p = this.square.at(x, y);
    if (p.x === NOWHERE) return Infinity;
    const { u, v, k, below } = this.cell(p);
    const { columns, rows, to } = this.mesh;
    const along = (axis: 0 | 1) =>
      columns * ((1 - v) * (to[k + 2 + axis] - to[k + axis]) + v * (to[below + 2 + axis] - to[below + axis]));
    const down = (axis: 0 | 1) =>
      rows * ((1 - u) * (to[below + axis] - to[k + axis]) + u * (to[below + 2 + axis] - to[k + 2 + axis]));
    const area = Math.abs(along(0) * down(1) - along(1) * down(0));
    return Math.sqrt(area) * this.square.scaleAt(x, y);
  }

  private cell(p: Point): { u: number; v: number; k: number; below: number } {
    const { columns, rows } = this.mesh;
    const [gx, gy] = [p.x * columns, p.y * rows];
    const cx = Math.min(columns - 1, Math.max(0, Math.floor(gx)));
    const cy = Math.min(rows - 1, Math.max(0, Math.floor(gy)));
    const k = 2 * (cy * (columns + 1) + cx);
    return { u: gx - cx, v: gy - cy, k, below: k + 2 * (columns + 1) };
  }
}
