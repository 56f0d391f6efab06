import { cubic } from '../picture/kernel.js';
import type { Raster } from './layer.js';

/** Shrinking by more than this halves the raster before it is looked at. */
const HALVE_FROM = 1.5;
const LEVELS = 14;

/** The raster and its halves, made as they are asked for. */
class Levels {
  private readonly made: Raster[];

  constructor(raster: Raster) {
    this.made = [raster];
  }

  at(level: number): Raster {
    while (this.made.length <= level) this.made.push(halved(this.made[this.made.length - 1]));
    return this.made[level];
  }
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

const weightsX = new Float64Array(4);
const weightsY = new Float64Array(4);

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
   * Red, green, blue and alpha, 0 to 1, multiplied by alpha.
   *
   * @param x, y   place of the raster, corner-based
   * @param scale  pixels of the raster that a sample of the grid spans
   * @returns false where it is empty; `out` is not written then
   */
  at(x: number, y: number, scale: number, out: Float64Array): boolean {
    const { width, height } = this.raster;
    const half = 0.5 * scale;
    if (!(x > -half && x < width + half && y > -half && y < height + half)) return false;
    const rim = rimShare(x, width, scale) * rimShare(y, height, scale);
    if (rim <= 0) return false;
    let level = 0;
    let s = scale;
    for (; s > HALVE_FROM && level < LEVELS; s /= 2) level++;
    const { width: w, height: h, data } = this.levels.at(level);
    // Halves of odd sizes are a hair larger than half.
    const shrink = 1 / 2 ** level;
    const px = x * shrink - 0.5;
    const py = y * shrink - 0.5;
    const ix = Math.floor(px);
    const iy = Math.floor(py);
    for (let k = 0; k < 4; k++) {
      weightsX[k] = cubic(ix - 1 + k - px);
      weightsY[k] = cubic(iy - 1 + k - py);
    }
    let r = 0;
    let g = 0;
    let b = 0;
    let a = 0;
    for (let j = 0; j < 4; j++) {
      const row = clamp(iy - 1 + j, h) * w;
      for (let i = 0; i < 4; i++) {
        const k = 4 * (row + clamp(ix - 1 + i, w));
        const weight = weightsX[i] * weightsY[j];
        r += weight * data[k];
        g += weight * data[k + 1];
        b += weight * data[k + 2];
        a += weight * data[k + 3];
      }
    }
    a = a < 0 ? 0 : a > 255 ? 255 : a;
    if (a === 0) return false;
    const unit = rim / 255;
    // Where cubic convolution overshoots, a colour may be no more than it covers.
    out[0] = unit * (r < 0 ? 0 : r > a ? a : r);
    out[1] = unit * (g < 0 ? 0 : g > a ? a : g);
    out[2] = unit * (b < 0 ? 0 : b > a ? a : b);
    out[3] = unit * a;
    return true;
  }
}

/** How much of a span of `scale` about a place lies from 0 to `size`. */
function rimShare(v: number, size: number, scale: number): number {
  const inside = Math.min(v, size - v);
  const share = 0.5 + inside / scale;
  return share >= 1 ? 1 : share;
}

function clamp(i: number, size: number): number {
  return i < 0 ? 0 : i >= size ? size - 1 : i;
}
