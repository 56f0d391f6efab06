import { blur } from './box-blur.js';
import { insideShare } from './outline.js';
import { innerOf, type Raster } from './raster.js';

/** How the edge of a raster's own shape is to run, in its pixels. */
export interface RasterEdge {
  /** Made larger by; smaller where negative. */
  readonly grow: number;
  /** Fades over so much, half of it inside. */
  readonly soften: number;
  /** Standard deviation of a blur of all of it. */
  readonly blur: number;
}

/**
 * A raster with another edge. What it grows by has the colour of its nearest opaque sample, and what it shrinks by is
 * taken off with its rim: no dark line is left of what it was cut out from.
 *
 * Cost: a few dozen operations a sample.
 */
export function withEdge(raster: Raster, { grow, soften, blur: sigma }: RasterEdge): Raster {
  if (grow === 0 && soften === 0 && sigma === 0) return raster;
  const pad = Math.ceil(Math.max(0, grow + soften / 2) + 3 * sigma + 1);
  const out = padded(raster, pad);
  if (grow !== 0 || soften !== 0) reshape(out, grow, soften);
  if (sigma > 0) blurAll(out, sigma);
  return out;
}

function padded(raster: Raster, pad: number): Raster {
  const { width, height, data } = raster;
  const inner = innerOf(raster);
  const [w, h] = [width + 2 * pad, height + 2 * pad];
  const out = new Uint8Array(4 * w * h);
  for (let y = 0; y < height; y++)
    out.set(data.subarray(4 * y * width, 4 * (y + 1) * width), 4 * ((y + pad) * w + pad));
  return {
    width: w,
    height: h,
    data: out,
    inner: { ...inner, left: inner.left + pad, top: inner.top + pad },
  };
}

function reshape({ width, height, data }: Raster, grow: number, soften: number): void {
  const n = width * height;
  const solid = (k: number) => data[4 * k + 3] >= 128;
  const toSolid = nearest(width, height, solid);
  const toOpen = nearest(width, height, (k) => !solid(k));
  const before = data.slice();
  for (let k = 0; k < n; k++) {
    const inside = solid(k);
    const other = inside ? toOpen[k] : toSolid[k];
    // From the middle of a sample to the edge between it and its neighbour is half a sample less.
    const off =
      other < 0
        ? Infinity
        : Math.hypot((k % width) - (other % width), ((k / width) | 0) - ((other / width) | 0)) - 0.5;
    const share = insideShare(inside ? off : -off, grow, soften, 1);
    const from = 4 * (inside || other < 0 ? k : other);
    for (let c = 0; c < 4; c++) data[4 * k + c] = Math.round(before[from + c] * share);
  }
}

/**
 * For every sample the nearest one of some, or -1 where there is none: exact Euclidean distances by lower envelopes of
 * parabolas (Felzenszwalb and Huttenlocher 2012, "Distance transforms of sampled functions").
 */
function nearest(width: number, height: number, is: (k: number) => boolean): Int32Array {
  const n = Math.max(width, height);
  // Down the columns first: the nearest row that has one.
  const rowOf = new Int32Array(width * height).fill(-1);
  for (let x = 0; x < width; x++) {
    let last = -1;
    for (let y = 0; y < height; y++) {
      if (is(y * width + x)) last = y;
      rowOf[y * width + x] = last;
    }
    last = -1;
    for (let y = height - 1; y >= 0; y--) {
      if (is(y * width + x)) last = y;
      const k = y * width + x;
      if (last >= 0 && (rowOf[k] < 0 || last - y < y - rowOf[k])) rowOf[k] = last;
    }
  }
  const out = new Int32Array(width * height).fill(-1);
  const at = new Int32Array(n);
  const from = new Float64Array(n + 1);
  for (let y = 0; y < height; y++) {
    const height2 = (x: number) => (y - rowOf[y * width + x]) ** 2;
    let m = -1;
    for (let x = 0; x < width; x++) {
      if (rowOf[y * width + x] < 0) continue;
      let s = -Infinity;
      while (m >= 0) {
        const p = at[m];
        s = (height2(x) + x * x - (height2(p) + p * p)) / (2 * (x - p));
        if (s > from[m]) break;
        m--;
      }
      m++;
      at[m] = x;
      from[m] = m === 0 ? -Infinity : s;
      from[m + 1] = Infinity;
    }
    if (m < 0) continue;
    for (let x = 0, k = 0; x < width; x++) {
      while (from[k + 1] < x) k++;
      out[y * width + x] = rowOf[y * width + at[k]] * width + at[k];
    }
  }
  return out;
}

function blurAll({ width, height, data }: Raster, sigma: number): void {
  const channel = new Float32Array(width * height);
  for (let c = 0; c < 4; c++) {
    for (let k = 0; k < channel.length; k++) channel[k] = data[4 * k + c];
    blur(channel, width, height, sigma);
    for (let k = 0; k < channel.length; k++) data[4 * k + c] = Math.round(channel[k]);
  }
}
