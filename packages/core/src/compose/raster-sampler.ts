import { CUBIC_TABLE, PHASES } from '@lurn/kernels';
import type { Raster } from './layer.js';

/** Shrinking by more than this halves the raster before it is looked at. */
const HALVE_FROM = 1.5;
const LEVELS = 14;

/** The raster and its halves, made as they are asked for. */
class Levels {
  private readonly made: Level[];

  constructor(raster: Raster) {
    this.made = [{ raster, occupied: new Occupied(raster) }];
  }

  at(level: number): Level {
    while (this.made.length <= level) {
      const raster = halved(this.made[this.made.length - 1].raster);
      this.made.push({ raster, occupied: new Occupied(raster) });
    }
    return this.made[level];
  }
}

interface Level {
  readonly raster: Raster;
  readonly occupied: Occupied;
}

const levelsOf = new WeakMap<Raster, Levels>();

function halved({ width, height, data }: Raster): Raster {
  const [w, h] = [Math.max(1, (width + 1) >> 1), Math.max(1, (height + 1) >> 1)];
  const out = new Uint8Array(4 * w * h);
  for (let y = 0; y < h; y++) {
    const rows = [2 * y, Math.min(height - 1, 2 * y + 1)].map((r) => r * width);
    for (let x = 0; x < w; x++) {
      const columns = [2 * x, Math.min(width - 1, 2 * x + 1)];
      for (let c = 0; c < 4; c++) {
        let sum = 2;
        for (const row of rows) for (const column of columns) sum += data[4 * (row + column) + c];
        out[4 * (y * w + x) + c] = sum >> 2;
      }
    }
  }
  return { width: w, height: h, data: out };
}

/** Samples a side of the blocks that are passed over where nothing is in them. */
const BLOCK = 8;

/** Which blocks of a raster have something in them or beside them, so that a look may find it. */
class Occupied {
  private readonly columns: number;
  private readonly rows: number;
  private readonly some: Uint8Array;

  constructor({ width, height, data }: Raster) {
    this.columns = Math.ceil(width / BLOCK);
    this.rows = Math.ceil(height / BLOCK);
    this.some = new Uint8Array(this.columns * this.rows);
    for (let y = 0, k = 3; y < height; y++) {
      for (let x = 0; x < width; x++, k += 4) {
        if (data[k] === 0) continue;
        // A look takes in two samples on either side.
        for (const [dx, dy] of [
          [-2, -2],
          [2, -2],
          [-2, 2],
          [2, 2],
        ])
          this.mark((x + dx) >> 3, (y + dy) >> 3);
      }
    }
  }

  private mark(column: number, row: number): void {
    if (column >= 0 && row >= 0 && column < this.columns && row < this.rows)
      this.some[row * this.columns + column] = 1;
  }

  /** @param x, y  place of a sample */
  at(x: number, y: number): boolean {
    const column = x < 0 ? 0 : x >> 3;
    const row = y < 0 ? 0 : y >> 3;
    return (
      this.some[
        (row < this.rows ? row : this.rows - 1) * this.columns +
          (column < this.columns ? column : this.columns - 1)
      ] === 1
    );
  }
}

/** How places of a raster change about the samples of a row. */
export interface Steps {
  /** Pixels of the raster that a sample of the grid spans, by its area. */
  readonly spans: Float64Array;
  /** How far from its place a sample reaches, at the most. */
  readonly reach: Float64Array;
  /** By how much x and y change from column to column, and from row to row. */
  readonly xc: Float64Array;
  readonly xr: Float64Array;
  readonly yc: Float64Array;
  readonly yr: Float64Array;
}

/** Red, green, blue and alpha of the samples of a row, 0 to 1, multiplied by alpha; alpha is 0 where there is nothing. */
export class RowOfRaster {
  readonly r: Float32Array;
  readonly g: Float32Array;
  readonly b: Float32Array;
  readonly a: Float32Array;

  constructor(n: number) {
    this.r = new Float32Array(n);
    this.g = new Float32Array(n);
    this.b = new Float32Array(n);
    this.a = new Float32Array(n);
  }
}

/**
 * Looks at a raster through a warp: colours by cubic convolution (Keys 1981) of as coarse a half as the warp shrinks it,
 * and, at its rim, as much as the rim cuts off of a sample of the grid that is drawn.
 */
export class RasterSampler {
  private readonly levels: Levels;

  constructor(private readonly raster: Raster) {
    let levels = levelsOf.get(raster);
    if (!levels) levelsOf.set(raster, (levels = new Levels(raster)));
    this.levels = levels;
  }

  /**
   * Looks at places of a row.
   *
   * @param xs, ys  of the raster, corner-based
   * @param steps   how places change about each sample of the grid
   * @param wanted  where 0, nothing is looked at
   * Cost: 64 multiply-adds a sample where there is something, one look where there is not.
   */
  row(
    xs: Float64Array,
    ys: Float64Array,
    steps: Steps,
    wanted: Float64Array,
    { r, g, b, a }: RowOfRaster,
  ): void {
    const { raster: whole } = this;
    const { width, height } = whole;
    let span = NaN;
    let levels = 0;
    let level = this.levels.at(0);
    for (let i = 0; i < wanted.length; i++) {
      a[i] = 0;
      if (wanted[i] <= 0) continue;
      const x = xs[i];
      const y = ys[i];
      const scale = steps.spans[i];
      const half = steps.reach[i];
      if (!(x > -half && x < width + half && y > -half && y < height + half)) continue;
      if (scale !== span) {
        span = scale;
        levels = 0;
        for (let s = scale; s > HALVE_FROM && levels < LEVELS; s /= 2) levels++;
        level = this.levels.at(levels);
      }
      const { raster, occupied } = level;
      const { width: w, height: h, data } = raster;
      // Halves of odd sizes are a hair larger than half.
      const shrink = 1 / (1 << levels);
      const px = x * shrink - 0.5;
      const py = y * shrink - 0.5;
      const ix = Math.floor(px);
      const iy = Math.floor(py);
      if (!occupied.at(ix, iy)) continue;
      const wx = (((px - ix) * PHASES + 0.5) | 0) << 2;
      const wy = (((py - iy) * PHASES + 0.5) | 0) << 2;
      const c0 = 4 * clamp(ix - 1, w);
      const c1 = 4 * clamp(ix, w);
      const c2 = 4 * clamp(ix + 1, w);
      const c3 = 4 * clamp(ix + 2, w);
      const w0 = CUBIC_TABLE[wx];
      const w1 = CUBIC_TABLE[wx + 1];
      const w2 = CUBIC_TABLE[wx + 2];
      const w3 = CUBIC_TABLE[wx + 3];
      let sr = 0;
      let sg = 0;
      let sb = 0;
      let sa = 0;
      for (let j = 0; j < 4; j++) {
        const line = 4 * clamp(iy - 1 + j, h) * w;
        const v = CUBIC_TABLE[wy + j];
        const k0 = line + c0;
        const k1 = line + c1;
        const k2 = line + c2;
        const k3 = line + c3;
        sr += v * (w0 * data[k0] + w1 * data[k1] + w2 * data[k2] + w3 * data[k3]);
        sg += v * (w0 * data[k0 + 1] + w1 * data[k1 + 1] + w2 * data[k2 + 1] + w3 * data[k3 + 1]);
        sb += v * (w0 * data[k0 + 2] + w1 * data[k1 + 2] + w2 * data[k2 + 2] + w3 * data[k3 + 2]);
        sa += v * (w0 * data[k0 + 3] + w1 * data[k1 + 3] + w2 * data[k2 + 3] + w3 * data[k3 + 3]);
      }
      if (sa <= 0) continue;
      if (sa > 255) sa = 255;
      const within = x > half && x < width - half && y > half && y < height - half;
      const rim = within ? 1 : rimShare(x, y, whole, steps, i);
      if (rim <= 0) continue;
      const unit = rim / 255;
      // Where cubic convolution overshoots, a colour may be no more than it covers.
      r[i] = unit * (sr < 0 ? 0 : sr > sa ? sa : sr);
      g[i] = unit * (sg < 0 ? 0 : sg > sa ? sa : sg);
      b[i] = unit * (sb < 0 ? 0 : sb > sa ? sa : sb);
      a[i] = unit * sa;
    }
  }
}

/**
 * How much of a sample of the grid lies inside one edge of a raster: the exact share of a square that a straight line
 * cuts off.
 *
 * @param inside  how far its middle is inside, in pixels of the raster
 * @param a, b    by how much that changes from one column of the grid to the next, and from row to row
 */
export function edgeShare(inside: number, a: number, b: number): number {
  const [wide, narrow] = [Math.abs(a), Math.abs(b)];
  const most = Math.max(wide, narrow);
  const far = (wide + narrow) / 2;
  if (inside >= far) return 1;
  if (inside <= -far) return 0;
  const off = Math.abs(inside);
  if (off <= most - far) return 0.5 + inside / most;
  const rest = (far - off) ** 2 / (2 * wide * narrow);
  return inside > 0 ? 1 - rest : rest;
}

/** How much of a sample lies inside a raster's four edges. */
function rimShare(x: number, y: number, { width, height }: Raster, steps: Steps, i: number): number {
  const { xc, xr, yc, yr } = steps;
  return (
    edgeShare(x, xc[i], xr[i]) *
    edgeShare(width - x, xc[i], xr[i]) *
    edgeShare(y, yc[i], yr[i]) *
    edgeShare(height - y, yc[i], yr[i])
  );
}

function clamp(i: number, size: number): number {
  return i < 0 ? 0 : i >= size ? size - 1 : i;
}
