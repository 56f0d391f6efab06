import { apply, chain, isAffine, multiply, type Matrix3, type Point } from './matrix.js';
import { MatrixEvaluator } from './matrix-warp.js';
import { NOWHERE, type WarpEvaluator, type WarpKind } from './warp-kind.js';

/**
 * A grid of nodes over the unit square, and bilinear in between (Wolberg 1990, "Digital Image Warping", section 3.4.3);
 * beyond its rim the outermost cells go on.
 */
export interface MeshWarp {
  readonly kind: 'mesh';
  /** Cells across and down. */
  readonly columns: number;
  readonly rows: number;
  /** Where the nodes go, x and y of each, row by row: (columns + 1) x (rows + 1) of them. */
  readonly to: Float64Array;
  /** Places to those of the unit square. */
  readonly before: Matrix3;
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

export const meshKind: WarpKind<MeshWarp> = {
  evaluator: (warp) => new MeshEvaluator(warp),
  before: (warp, first) => ({ ...warp, before: multiply(warp.before, first) }),
  after(then, warp) {
    if (!isAffine(then)) throw new RangeError('Only an affine map can follow a mesh.');
    const to = new Float64Array(warp.to.length);
    for (let k = 0; k < to.length; k += 2) {
      const p = apply(then, warp.to[k], warp.to[k + 1]);
      to[k] = p.x;
      to[k + 1] = p.y;
    }
    return { ...warp, to };
  },
  matrix: () => null,
  drawn: ({ before, columns, rows, to }) => ({ matrix: before, grid: { columns, rows, to } }),
  sourceBounds: () => null,
};

/** A mesh that does what a function does at its nodes, over the rectangle from (0, 0) to (width, height). */
export function meshOver(
  width: number,
  height: number,
  columns: number,
  rows: number,
  goesTo: (x: number, y: number) => Point,
): MeshWarp {
  const to = new Float64Array(2 * (columns + 1) * (rows + 1));
  for (let r = 0, k = 0; r <= rows; r++) {
    for (let c = 0; c <= columns; c++, k += 2) {
      const p = goesTo((c / columns) * width, (r / rows) * height);
      to[k] = p.x;
      to[k + 1] = p.y;
    }
  }
  return { kind: 'mesh', columns, rows, to, before: chain([1 / width, 0, 0, 0, 1 / height, 0, 0, 0, 1]) };
}
