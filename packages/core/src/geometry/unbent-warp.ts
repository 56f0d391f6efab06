import { apply, areaScale, invert, isAffine, multiply, type Matrix3, type Point } from './matrix.js';
import { MatrixEvaluator } from './matrix-warp.js';
import { MeshEvaluator, type MeshWarp } from './mesh-warp.js';
import { NOWHERE, type Bounds, type WarpEvaluator, type WarpKind } from './warp-kind.js';

/** The way back through a mesh, exactly: to the place that the mesh takes there, and on from it by a matrix. */
export interface UnbentWarp {
  readonly kind: 'unbent';
  readonly mesh: MeshWarp;
  /** Places to those that the mesh leads to. */
  readonly before: Matrix3;
  /** Affine. */
  readonly after: Matrix3;
}

/** The cells of a mesh by where they go, for finding the one that a place lies in. */
class CellIndex {
  private readonly left: number;
  private readonly top: number;
  private readonly size: number;
  private readonly across: number;
  private readonly down: number;
  /** Cells of bucket b are `cells[begins[b]]` and on. */
  private readonly begins: Int32Array;
  private readonly cells: Int32Array;

  constructor(private readonly mesh: MeshWarp) {
    const { to, columns, rows } = mesh;
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let k = 0; k < to.length; k += 2) {
      left = Math.min(left, to[k]);
      right = Math.max(right, to[k]);
      top = Math.min(top, to[k + 1]);
      bottom = Math.max(bottom, to[k + 1]);
    }
    [this.left, this.top] = [left, top];
    this.size = Math.max(1e-6, Math.sqrt(((right - left) * (bottom - top)) / (columns * rows)));
    this.across = Math.max(1, Math.min(4096, Math.ceil((right - left) / this.size)));
    this.down = Math.max(1, Math.min(4096, Math.ceil((bottom - top) / this.size)));
    const counts = new Int32Array(this.across * this.down + 1);
    this.eachBucket((bucket) => counts[bucket + 1]++);
    for (let b = 0; b < this.across * this.down; b++) counts[b + 1] += counts[b];
    this.begins = counts.slice();
    this.cells = new Int32Array(counts[counts.length - 1]);
    this.eachBucket((bucket, cell) => (this.cells[counts[bucket]++] = cell));
  }

  private eachBucket(visit: (bucket: number, cell: number) => void): void {
    const { to, columns, rows } = this.mesh;
    for (let r = 0; r < rows; r++) {
      for (let c = 0; c < columns; c++) {
        const k = 2 * (r * (columns + 1) + c);
        const b = k + 2 * (columns + 1);
        const x0 = Math.min(to[k], to[k + 2], to[b], to[b + 2]);
        const x1 = Math.max(to[k], to[k + 2], to[b], to[b + 2]);
        const y0 = Math.min(to[k + 1], to[k + 3], to[b + 1], to[b + 3]);
        const y1 = Math.max(to[k + 1], to[k + 3], to[b + 1], to[b + 3]);
        const [i0, i1] = [this.column(x0), this.column(x1)];
        const [j0, j1] = [this.row(y0), this.row(y1)];
        for (let j = j0; j <= j1; j++)
          for (let i = i0; i <= i1; i++) visit(j * this.across + i, r * columns + c);
      }
    }
  }

  private column(x: number): number {
    return Math.min(this.across - 1, Math.max(0, Math.floor((x - this.left) / this.size)));
  }

  private row(y: number): number {
    return Math.min(this.down - 1, Math.max(0, Math.floor((y - this.top) / this.size)));
  }

  /** Visits the cells near a place until one is the right one. */
  find(x: number, y: number, isIn: (cell: number) => boolean): boolean {
    const bucket = this.row(y) * this.across + this.column(x);
    for (let k = this.begins[bucket]; k < this.begins[bucket + 1]; k++) if (isIn(this.cells[k])) return true;
    return false;
  }
}

/** Rounds of Newton's steps by which a place in a cell settles, and how far beyond its rim it may lie, in parts of it. */
const UNBENDING = 8;
const CELL_RIM = 1e-6;

/** Places on the way back through a mesh: the cell that one lies in, and from where in it. */
export class UnbentEvaluator implements WarpEvaluator {
  private readonly mesh: MeshWarp;
  private readonly back: Matrix3;
  private readonly first: MatrixEvaluator;
  private readonly home: Matrix3;
  private readonly cells: CellIndex;
  private readonly forth: WarpEvaluator;
  private readonly growth: number;
  private cell = 0;
  private u = 0;
  private v = 0;

  constructor(warp: UnbentWarp) {
    this.mesh = warp.mesh;
    this.first = new MatrixEvaluator(warp.before);
    this.home = multiply(warp.after, invert(warp.mesh.before));
    this.cells = new CellIndex(warp.mesh);
    this.forth = new MeshEvaluator(warp.mesh);
    this.growth = areaScale(warp.after);
    this.back = warp.after;
  }

  at(x: number, y: number): Point {
    const p = this.first.at(x, y);
    return p.x === NOWHERE ? p : this.unbent(p.x, p.y);
  }

  row(y: number, x0: number, x1: number, xs: Float64Array, ys: Float64Array): void {
    const n = Math.round(x1 - x0);
    this.first.row(y, x0, x1, xs, ys);
    for (let i = 0; i < n; i++) {
      if (xs[i] === NOWHERE) continue;
      const p = this.unbent(xs[i], ys[i]);
      xs[i] = p.x;
      ys[i] = p.y;
    }
  }

  scaleAt(x: number, y: number): number {
    const p = this.first.at(x, y);
    if (p.x === NOWHERE) return Infinity;
    const q = this.unbent(p.x, p.y);
    if (q.x === NOWHERE) return Infinity;
    const inMesh = apply(invert(this.back), q.x, q.y);
    const forth = this.forth.scaleAt(inMesh.x, inMesh.y);
    return forth > 0 ? (this.first.scaleAt(x, y) * this.growth) / forth : Infinity;
  }

  /** The place that the mesh takes to this one, after which the matrix comes. */
  private unbent(x: number, y: number): Point {
    const { columns, rows } = this.mesh;
    if (!this.isIn(this.cell, x, y) && !this.cells.find(x, y, (cell) => this.isIn(cell, x, y)))
      return { x: NOWHERE, y: NOWHERE };
    const [c, r] = [this.cell % columns, Math.floor(this.cell / columns)];
    return apply(this.home, (c + this.u) / columns, (r + this.v) / rows);
  }

  /** Whether a cell is taken there, and from where in it. */
  private isIn(cell: number, x: number, y: number): boolean {
    const { columns, to } = this.mesh;
    const k = 2 * (Math.floor(cell / columns) * (columns + 1) + (cell % columns));
    const b = k + 2 * (columns + 1);
    const [ax, ay] = [to[k], to[k + 1]];
    const [bx, by] = [to[k + 2] - ax, to[k + 3] - ay];
    const [dx, dy] = [to[b] - ax, to[b + 1] - ay];
    const [ex, ey] = [to[b + 2] - to[b] - bx, to[b + 3] - to[b + 1] - by];
    let [u, v] = [cell === this.cell ? this.u : 0.5, cell === this.cell ? this.v : 0.5];
    for (let round = 0; round < UNBENDING; round++) {
      const px = ax + u * bx + v * (dx + u * ex) - x;
      const py = ay + u * by + v * (dy + u * ey) - y;
      const [xu, yu, xv, yv] = [bx + v * ex, by + v * ey, dx + u * ex, dy + u * ey];
      const det = xu * yv - xv * yu;
      if (det === 0) return false;
      const [du, dv] = [(yv * px - xv * py) / det, (xu * py - yu * px) / det];
      u -= du;
      v -= dv;
      if (u < -1 || v < -1 || u > 2 || v > 2) return false;
      if (Math.abs(du) + Math.abs(dv) < 1e-9) break;
    }
    if (u < -CELL_RIM || v < -CELL_RIM || u > 1 + CELL_RIM || v > 1 + CELL_RIM) return false;
    [this.cell, this.u, this.v] = [cell, u, v];
    return true;
  }
}

/** Looks across and down a box that is bent, and how much farther than they tell it may reach, in parts of its size. */
const [LOOKS, BULGE] = [16, 0.04];

export const unbentKind: WarpKind<UnbentWarp> = {
  evaluator: (warp) => new UnbentEvaluator(warp),
  before: (warp, first) => ({ ...warp, before: multiply(warp.before, first) }),
  after: (then, warp) => ({ ...warp, after: multiply(then, warp.after) }),
  matrix: () => null,
  drawn: () => null,
  sourceBounds({ mesh, before, after }, points, margin): Bounds | null {
    if (!isAffine(before)) return null;
    const [xs, ys] = [points.map((p) => p.x), points.map((p) => p.y)];
    const [left, top] = [Math.min(...xs) - margin, Math.min(...ys) - margin];
    const [right, bottom] = [Math.max(...xs) + margin, Math.max(...ys) + margin];
    const [toMesh, toScene] = [invert(after), invert(before)];
    const place = new MeshEvaluator(mesh);
    let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let j = 0; j <= LOOKS; j++) {
      for (let i = 0; i <= LOOKS; i++) {
        const q = apply(toMesh, left + (i / LOOKS) * (right - left), top + (j / LOOKS) * (bottom - top));
        const there = place.at(q.x, q.y);
        const p = apply(toScene, there.x, there.y);
        [x0, y0, x1, y1] = [Math.min(x0, p.x), Math.min(y0, p.y), Math.max(x1, p.x), Math.max(y1, p.y)];
      }
    }
    const more = 1 + BULGE * Math.max(x1 - x0, y1 - y0);
    return { x0: x0 - more, y0: y0 - more, x1: x1 + more, y1: y1 + more };
  },
};
