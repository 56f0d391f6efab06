import type { Point } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import { smallestEigenvalue } from '../track/alignment.js';

/** A place that can be followed in both directions. */
export interface Corner extends Point {
  /** The smaller eigenvalue of its mean structure tensor, in squared grey levels a sample. */
  readonly strength: number;
}

/** Gradients are summed over blocks of so many samples across and down; a corner is told by two by two of them. */
const BLOCK = 8;

/**
 * The corners of a picture on a grid: the smaller eigenvalue of the structure tensor over windows of 16 x 16 samples
 * (Shi and Tomasi 1994, "Good features to track"), one in every 8.
 *
 * @param least  strength below which a place is no corner
 * Cost: about ten operations a sample, whatever the window.
 */
export function cornersOf({ width, height, stride, data }: Plane, least: number): Corner[] {
  const columns = Math.floor((width - 2) / BLOCK);
  const rows = Math.floor((height - 2) / BLOCK);
  const sums = [0, 1, 2].map(() => new Float64Array(columns * rows));
  const [xx, xy, yy] = sums;
  for (let j = 0; j < rows; j++) {
    for (let y = 1 + j * BLOCK; y < 1 + (j + 1) * BLOCK; y++) {
      let p = y * stride + 1;
      for (let i = 0, k = j * columns; i < columns; i++, k++) {
        let [a, b, c] = [0, 0, 0];
        const end = p + BLOCK;
        for (; p < end; p++) {
          const gx = data[p + 1] - data[p - 1];
          const gy = data[p + stride] - data[p - stride];
          a += gx * gx;
          b += gx * gy;
          c += gy * gy;
        }
        xx[k] += a;
        xy[k] += b;
        yy[k] += c;
      }
    }
  }
  const scale = 1 / (4 * 4 * BLOCK * BLOCK); // gradients were twice as large, over four blocks
  const corners: Corner[] = [];
  for (let j = 0; j + 1 < rows; j++) {
    for (let i = 0; i + 1 < columns; i++) {
      const k = j * columns + i;
      const sum = (s: Float64Array) => scale * (s[k] + s[k + 1] + s[k + columns] + s[k + columns + 1]);
      const strength = smallestEigenvalue(sum(xx), sum(xy), sum(yy));
      if (strength >= least) corners.push({ x: 1 + (i + 1) * BLOCK, y: 1 + (j + 1) * BLOCK, strength });
    }
  }
  return corners;
}

/** Where fewer cells than this share have a corner, the few of bare parts get company. */
const BARE = 0.85;
/** Of a cell's eight neighbours so many have a corner at the most where its part of the picture is bare. */
const ALONE = 4;

/**
 * Adds the strongest corners to the places that are taken, so that every cell of the picture has its share. Where much of
 * the picture is bare, more are added there: what hangs on a plain wall tells of the wall by its few corners alone.
 *
 * @param wanted  places of the whole picture
 * @param apart   the least distance between two, in samples
 * @param more    how many may be added beyond one a cell
 */
export function spreadCorners(
  corners: readonly Corner[],
  taken: readonly Point[],
  {
    width,
    height,
    wanted,
    apart,
    more = 0,
  }: { width: number; height: number; wanted: number; apart: number; more?: number },
): Corner[] {
  const cells = new Cells(width, height, wanted, taken);
  const near = new Nearby(apart);
  for (const p of taken) near.add(p);
  const chosen: Corner[] = [];
  const sorted = [...corners].sort((a, b) => b.strength - a.strength);
  const choose = (c: Corner) => {
    cells.add(c);
    near.add(c);
    chosen.push(c);
  };
  for (const c of sorted) if (!cells.has(c) && !near.has(c)) choose(c);
  if (cells.count >= BARE * cells.all) return chosen;
  const most = chosen.length + more;
  for (const c of sorted) {
    if (chosen.length >= most) break;
    if (cells.neighbours(c) <= ALONE && !near.has(c)) choose(c);
  }
  return chosen;
}

/** A picture in about so many square cells, and which of them have a point. */
export class Cells {
  /** How many have one. */
  count = 0;
  private readonly columns: number;
  private readonly rows: number;
  private readonly taken: Uint8Array;

  constructor(
    private readonly width: number,
    private readonly height: number,
    cells: number,
    points: readonly Point[] = [],
  ) {
    const side = Math.sqrt((width * height) / cells);
    this.columns = Math.max(1, Math.round(width / side));
    this.rows = Math.max(1, Math.round(height / side));
    this.taken = new Uint8Array(this.columns * this.rows);
    for (const p of points) this.add(p);
  }

  get all(): number {
    return this.taken.length;
  }

  has(p: Point): boolean {
    return this.taken[this.of(p)] === 1;
  }

  /** How many of the cells round that of a place have one. */
  neighbours(p: Point): number {
    const k = this.of(p);
    const [i, j] = [k % this.columns, Math.floor(k / this.columns)];
    let n = 0;
    for (let y = Math.max(0, j - 1); y <= Math.min(this.rows - 1, j + 1); y++)
      for (let x = Math.max(0, i - 1); x <= Math.min(this.columns - 1, i + 1); x++)
        if (y * this.columns + x !== k) n += this.taken[y * this.columns + x];
    return n;
  }

  add(p: Point): void {
    const k = this.of(p);
    if (!this.taken[k]) this.count++;
    this.taken[k] = 1;
  }

  private of({ x, y }: Point): number {
    const { width, height, columns, rows } = this;
    const i = Math.min(columns - 1, Math.max(0, Math.floor((x / width) * columns)));
    const j = Math.min(rows - 1, Math.max(0, Math.floor((y / height) * rows)));
    return j * columns + i;
  }
}

/** Points by cells, so that those near a place are found at once. */
class Nearby {
  private readonly cells = new Map<number, Point[]>();
  constructor(private readonly apart: number) {}

  add(p: Point): void {
    const key = this.key(p.x, p.y);
    const cell = this.cells.get(key);
    if (cell) cell.push(p);
    else this.cells.set(key, [p]);
  }

  /** True when one lies nearer than `apart`. */
  has({ x, y }: Point): boolean {
    const { apart } = this;
    for (const dy of [-apart, 0, apart]) {
      for (const dx of [-apart, 0, apart]) {
        const cell = this.cells.get(this.key(x + dx, y + dy)) ?? [];
        if (cell.some((q) => (q.x - x) ** 2 + (q.y - y) ** 2 < apart * apart)) return true;
      }
    }
    return false;
  }

  private key(x: number, y: number): number {
    return Math.floor(y / this.apart) * 65536 + Math.floor(x / this.apart);
  }
}
