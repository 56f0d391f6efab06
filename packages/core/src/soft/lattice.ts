import type { Point } from '../geometry/matrix.js';

/** Control points that a place depends on, across and down. */
export const SUPPORT = 4;

/** A rectangle of a surface's own frame, in source pixels. */
export interface LatticeBox {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

/**
 * Control points over a rectangle of a surface's own frame: a bicubic B-spline through which every place of it goes to
 * a place of another frame (free-form deformation; Lee, Wolberg and Shin 1997, Rueckert et al. 1999).
 */
export class Lattice {
  /** Cells across and down. */
  readonly columns: number;
  readonly rows: number;
  /** Size of a cell, in pixels. */
  readonly across: number;
  readonly down: number;
  readonly nodes: number;
  /** Nodes lie one after the other along the shorter side, so that the equations' band is narrow. */
  private readonly stepX: number;
  private readonly stepY: number;

  constructor(
    readonly box: LatticeBox,
    spacing: number,
  ) {
    const { left, top, right, bottom } = box;
    this.columns = Math.max(1, Math.round((right - left) / spacing));
    this.rows = Math.max(1, Math.round((bottom - top) / spacing));
    this.across = (right - left) / this.columns;
    this.down = (bottom - top) / this.rows;
    const [nx, ny] = [this.columns + 3, this.rows + 3];
    this.nodes = nx * ny;
    [this.stepX, this.stepY] = nx < ny ? [1, nx] : [ny, 1];
  }

  /** How far apart, in their numbering, nodes lie that one place depends on. */
  get reach(): number {
    return (SUPPORT - 1) * (this.stepX + this.stepY);
  }

  /** The node at a column and a row, of which there are three more than cells. */
  node(column: number, row: number): number {
    return column * this.stepX + row * this.stepY;
  }

  /** The cell that a place lies in, the nearest one beside the rectangle, and how far into it, 0 to 1 inside. */
  cellAt(x: number, y: number): { column: number; row: number; u: number; v: number } {
    const gx = (x - this.box.left) / this.across;
    const gy = (y - this.box.top) / this.down;
    const column = Math.min(this.columns - 1, Math.max(0, Math.floor(gx)));
    const row = Math.min(this.rows - 1, Math.max(0, Math.floor(gy)));
    return { column, row, u: gx - column, v: gy - row };
  }

  /** Control points, x and y of each, with which every place stays where it is. */
  atRest(): Float64Array {
    const out = new Float64Array(2 * this.nodes);
    for (let row = 0; row < this.rows + 3; row++) {
      for (let column = 0; column < this.columns + 3; column++) {
        const k = 2 * this.node(column, row);
        out[k] = this.box.left + (column - 1) * this.across;
        out[k + 1] = this.box.top + (row - 1) * this.down;
      }
    }
    return out;
  }

  /** The nodes that a place depends on, and how much on each. */
  weightsAt(x: number, y: number): { readonly node: number; readonly weight: number }[] {
    const { column, row, u, v } = this.cellAt(x, y);
    const [wx, wy] = [weights(u), weights(v)];
    return wy.flatMap((b, j) => wx.map((a, i) => ({ node: this.node(column + i, row + j), weight: a * b })));
  }

  /** Where a place goes. Beyond the rectangle the outermost cells go on straight. */
  placeAt(to: Float64Array, x: number, y: number): Point {
    const { left, top, right, bottom } = this.box;
    const [cx, cy] = [Math.min(right, Math.max(left, x)), Math.min(bottom, Math.max(top, y))];
    const p = this.inside(to, cx, cy);
    if (cx === x && cy === y) return p;
    const { across, down } = this;
    const [dx, dy] = [
      cx > left + across / 2 ? -0.01 * across : 0.01 * across,
      cy > top + down / 2 ? -0.01 * down : 0.01 * down,
    ];
    const [q, r] = [this.inside(to, cx + dx, cy), this.inside(to, cx, cy + dy)];
    const [s, t] = [(x - cx) / dx, (y - cy) / dy];
    return { x: p.x + s * (q.x - p.x) + t * (r.x - p.x), y: p.y + s * (q.y - p.y) + t * (r.y - p.y) };
  }

  private inside(to: Float64Array, x: number, y: number): Point {
    const { column, row, u, v } = this.cellAt(x, y);
    const [wx, wy] = [weights(u), weights(v)];
    const out = { x: 0, y: 0 };
    for (let j = 0; j < SUPPORT; j++) {
      for (let i = 0; i < SUPPORT; i++) {
        const k = 2 * this.node(column + i, row + j);
        const w = wx[i] * wy[j];
        out.x += w * to[k];
        out.y += w * to[k + 1];
      }
    }
    return out;
  }
}

/** The four weights of the uniform cubic B-spline so far into a cell (de Boor 1978). */
export function weights(u: number): [number, number, number, number] {
  const v = 1 - u;
  const [u2, v2] = [u * u, v * v];
  return [(v2 * v) / 6, (4 - 6 * u2 + 3 * u2 * u) / 6, (4 - 6 * v2 + 3 * v2 * v) / 6, (u2 * u) / 6];
}
