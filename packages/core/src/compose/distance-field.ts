import type { Point } from '../geometry/matrix.js';

/** Samples a side, so that a huge shape does not take a huge field. */
const MOST = 1500;

/**
 * How far places are from a closed outline, in pixels: positive inside, by the parity of its edges; exact within a band
 * about it, and no more than the band beyond.
 *
 * Cost: to make, its area plus its length times the band; to ask, four looks.
 */
export class DistanceField {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
  private readonly step: number;
  private readonly columns: number;
  private readonly rows: number;
  private readonly data: Float32Array;

  constructor(
    outline: readonly Point[],
    readonly band: number,
  ) {
    const xs = outline.map((p) => p.x);
    const ys = outline.map((p) => p.y);
    const margin = band + 1;
    this.left = Math.min(...xs) - margin;
    this.top = Math.min(...ys) - margin;
    this.right = Math.max(...xs) + margin;
    this.bottom = Math.max(...ys) + margin;
    this.step = Math.max(1, (this.right - this.left) / MOST, (this.bottom - this.top) / MOST);
    this.columns = Math.ceil((this.right - this.left) / this.step) + 2;
    this.rows = Math.ceil((this.bottom - this.top) / this.step) + 2;
    this.data = new Float32Array(this.columns * this.rows).fill(band);
    outline.forEach((a, i) => this.nearTo(a, outline[(i + 1) % outline.length]));
    this.signed(outline);
  }

  /** Distance of a place. */
  at(x: number, y: number): number {
    if (!(x > this.left && x < this.right && y > this.top && y < this.bottom)) return -this.band;
    const gx = (x - this.left) / this.step;
    const gy = (y - this.top) / this.step;
    const i = gx | 0;
    const j = gy | 0;
    const u = gx - i;
    const v = gy - j;
    const { data, columns } = this;
    const k = j * columns + i;
    const above = data[k] + u * (data[k + 1] - data[k]);
    const below = data[k + columns] + u * (data[k + columns + 1] - data[k + columns]);
    return above + v * (below - above);
  }

  /** Lowers distances about one edge. */
  private nearTo(a: Point, b: Point): void {
    const { data, columns, rows, step, left, top, band } = this;
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const length = dx * dx + dy * dy || 1;
    const first = (v: number, from: number) => Math.max(0, Math.floor((v - band - from) / step));
    const last = (v: number, from: number, n: number) => Math.min(n - 1, Math.ceil((v + band - from) / step));
    for (let j = first(Math.min(a.y, b.y), top); j <= last(Math.max(a.y, b.y), top, rows); j++) {
      const y = top + j * step - a.y;
      for (let i = first(Math.min(a.x, b.x), left); i <= last(Math.max(a.x, b.x), left, columns); i++) {
        const x = left + i * step - a.x;
        const t = Math.min(1, Math.max(0, (x * dx + y * dy) / length));
        const d = Math.hypot(x - t * dx, y - t * dy);
        const k = j * columns + i;
        if (d < data[k]) data[k] = d;
      }
    }
  }

  /** Makes distances outside negative, row by row, by where the edges cross it. */
  private signed(outline: readonly Point[]): void {
    const { data, columns, rows, step, left, top } = this;
    const crossings: number[] = [];
    for (let j = 0; j < rows; j++) {
      const y = top + j * step;
      crossings.length = 0;
      for (let n = 0; n < outline.length; n++) {
        const [a, b] = [outline[n], outline[(n + 1) % outline.length]];
        if (a.y > y !== b.y > y) crossings.push(a.x + ((y - a.y) / (b.y - a.y)) * (b.x - a.x));
      }
      crossings.sort((p, q) => p - q);
      let passed = 0;
      for (let i = 0; i < columns; i++) {
        const x = left + i * step;
        while (passed < crossings.length && crossings[passed] <= x) passed++;
        if (passed % 2 === 0) data[j * columns + i] *= -1;
      }
    }
  }
}
