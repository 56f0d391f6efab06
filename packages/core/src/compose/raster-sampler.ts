import { kernelBytes, rasterRow, rasterRowBetween, type Rgba } from '@lurn/kernels';
import type { Raster } from './raster.js';

/** Shrinking by more than this halves the raster before it is looked at. */
const HALVE_FROM = 1.5;
const LEVELS = 14;
/** Samples about a raster that are as those at its rim, so that a place near it has all that it is made of. */
const RIM = 4;
/** Rasters leave so much of the kernels' memory for pictures. */
const FOR_PICTURES = 64 * 2 ** 20;

/** The raster and its halves with a rim about them, made as they are asked for, where the kernels reach them. */
class Levels {
  private readonly plain: Raster[];
  private readonly rimmed: Rgba[] = [];

  constructor(raster: Raster) {
    this.plain = [raster];
  }

  at(level: number): Rgba {
    while (this.plain.length <= level) this.plain.push(halved(this.plain[this.plain.length - 1]));
    this.rimmed[level] ??= withRim(this.plain[level]);
    return this.rimmed[level];
  }
}

const levelsOf = new WeakMap<Raster, Levels>();

function withRim({ width, height, data }: Raster): Rgba {
  const [w, h] = [width + 2 * RIM, height + 2 * RIM];
  const out = kernelBytes(4 * w * h, FOR_PICTURES) ?? new Uint8Array(4 * w * h);
  for (let y = 0; y < h; y++) {
    const row = 4 * width * clamp(y - RIM, height);
    const to = 4 * y * w;
    out.set(data.subarray(row, row + 4 * width), to + 4 * RIM);
    for (let x = 0; x < RIM; x++) {
      out.set(data.subarray(row, row + 4), to + 4 * x);
      out.set(data.subarray(row + 4 * width - 4, row + 4 * width), to + 4 * (w - 1 - x));
    }
  }
  return { width: w, height: h, data: out };
}

function halved({ width, height, data }: Raster): Raster {
  const [w, h] = [Math.max(1, (width + 1) >> 1), Math.max(1, (height + 1) >> 1)];
  const out = new Uint8Array(4 * w * h);
  for (let y = 0; y < h; y++) {
    const above = 2 * y * width;
    const below = Math.min(height - 1, 2 * y + 1) * width;
    for (let x = 0; x < w; x++) {
      const left = 2 * x;
      const right = Math.min(width - 1, left + 1);
      for (let c = 0; c < 4; c++) {
        const sum =
          data[4 * (above + left) + c] +
          data[4 * (above + right) + c] +
          data[4 * (below + left) + c] +
          data[4 * (below + right) + c];
        out[4 * (y * w + x) + c] = (sum + 2) >> 2;
      }
    }
  }
  return { width: w, height: h, data: out };
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

/**
 * Looks at a raster through a warp: colours by cubic convolution (Keys 1981) of as coarse a half as the warp shrinks it,
 * and, at its rim, as much as the rim cuts off of a sample of the grid that is drawn.
 */
export class RasterSampler {
  private readonly levels: Levels;

  /** @param draft  quickly rather than exactly: between four samples of a half that is about as coarse */
  constructor(
    private readonly raster: Raster,
    private readonly draft = false,
  ) {
    let levels = levelsOf.get(raster);
    if (!levels) levelsOf.set(raster, (levels = new Levels(raster)));
    this.levels = levels;
  }

  /**
   * Looks at places of a row.
   *
   * @param xs, ys  of the raster, corner-based; where the kernels reach them they do it
   * @param steps   how places change about each sample of the grid
   * @param out     receives red, green, blue and alpha of each, 0 to 1, multiplied by alpha
   */
  row(xs: Float64Array, ys: Float64Array, steps: Steps, out: Float32Array): void {
    const n = steps.spans.length;
    for (let from = 0; from < n;) {
      // As far as the same half serves.
      const level = levelFor(steps.spans[from]);
      let to = from + 1;
      while (to < n && levelFor(steps.spans[to]) === level) to++;
      const part = <T extends Float64Array | Float32Array>(all: T, each: number) =>
        (from === 0 && to === n ? all : all.subarray(each * from, each * to)) as T;
      // Halves of odd sizes are a hair larger than half.
      const shrink = 1 / (1 << level);
      const look = this.draft ? rasterRowBetween : rasterRow;
      look(this.levels.at(level), part(xs, 1), part(ys, 1), to - from, shrink, RIM, part(out, 4));
      from = to;
    }
    this.cut(xs, ys, steps, out);
  }

  /** Leaves of samples at the rim as much as it cuts off, and nothing beyond. */
  private cut(xs: Float64Array, ys: Float64Array, steps: Steps, out: Float32Array): void {
    const { width, height } = this.raster;
    for (let i = 0; i < steps.reach.length; i++) {
      const x = xs[i];
      const y = ys[i];
      const reach = steps.reach[i];
      if (x > reach && x < width - reach && y > reach && y < height - reach) continue;
      const inside = x > -reach && x < width + reach && y > -reach && y < height + reach;
      const share = inside ? rimShare(x, y, this.raster, steps, i) : 0;
      for (let k = 4 * i; k < 4 * i + 4; k++) out[k] *= share;
    }
  }
}

function levelFor(span: number): number {
  let level = 0;
  for (let s = span; s > HALVE_FROM && level < LEVELS; s /= 2) level++;
  return level;
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
