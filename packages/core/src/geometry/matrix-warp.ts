import { evenRow } from '@lurn/kernels';
import { apply, invert, isAffine, multiply, type Matrix3, type Point } from './matrix.js';
import { NOWHERE, type WarpEvaluator, type WarpKind } from './warp-kind.js';

export interface MatrixWarp {
  readonly kind: 'matrix';
  readonly m: Matrix3;
}

export function matrixWarp(m: Matrix3): MatrixWarp {
  return { kind: 'matrix', m };
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

export const matrixKind: WarpKind<MatrixWarp> = {
  evaluator: ({ m }) => new MatrixEvaluator(m),
  before: ({ m }, first) => matrixWarp(multiply(m, first)),
  after: (then, { m }) => matrixWarp(multiply(then, m)),
  matrix: ({ m }) => m,
  drawn: ({ m }) => ({ matrix: m, grid: null }),
  sourceBounds({ m }, points, margin) {
    const back = invert(m);
    const [xs, ys]: number[][] = [[], []];
    const spread = margin > 0 ? [-margin, margin] : [0];
    for (const point of points) {
      for (const [dx, dy] of spread.flatMap((a) => spread.map((b) => [a, b]))) {
        const [x, y] = [point.x + dx, point.y + dy];
        const w = back[6] * x + back[7] * y + back[8];
        const p = apply(back, x, y);
        // In front of the camera only if the way there comes back with a positive depth, too.
        const there = m[6] * p.x + m[7] * p.y + m[8];
        if (!(w !== 0 && there > 0)) return null;
        xs.push(p.x);
        ys.push(p.y);
      }
    }
    return { x0: Math.min(...xs), y0: Math.min(...ys), x1: Math.max(...xs), y1: Math.max(...ys) };
  },
};
