import { kernels, type Kernels } from './instance.js';
import { CUBIC_TABLE, PHASES } from './weights.js';

/** A raster of red, green, blue and alpha, eight bits each, multiplied by alpha, row by row without a gap. */
export interface Rgba {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
}

/**
 * Places of a row of a raster by cubic convolution (Keys 1981); phases are rounded. Values are 0 to 1, no colour is more
 * than alpha, and where a place does not have all of its sixteen samples all four are 0.
 *
 * @param xs, ys  corner-based places, `n` of them: what is looked at is `shrink` times as far, and `shift` further in
 * @param out     receives four numbers a place
 * Cost: 64 multiply-adds a place; a tenth of that where the kernel reaches all of them.
 */
export function rasterRow(
  raster: Rgba,
  xs: Float64Array,
  ys: Float64Array,
  n: number,
  shrink: number,
  shift: number,
  out: Float32Array,
): void {
  const all = reaching(raster, xs, ys, out);
  if (!all) return rasterRowPlain(raster, xs, ys, n, shrink, shift, out);
  const { width, height } = raster;
  const data = raster.data.byteOffset;
  // prettier-ignore
  all.rasterRow(data, width, height, xs.byteOffset, ys.byteOffset, n, shrink, shift, all.cubic, out.byteOffset);
}

/**
 * As {@link rasterRow}, between four samples: quicker, and softer. Where a place does not have all four, all is 0.
 * Cost: 16 multiply-adds a place.
 */
export function rasterRowBetween(
  raster: Rgba,
  xs: Float64Array,
  ys: Float64Array,
  n: number,
  shrink: number,
  shift: number,
  out: Float32Array,
): void {
  const all = reaching(raster, xs, ys, out);
  if (!all) return rasterRowBetweenPlain(raster, xs, ys, n, shrink, shift, out);
  const { width, height, data } = raster;
  all.rasterRowBetween(
    ...([
      data.byteOffset,
      width,
      height,
      xs.byteOffset,
      ys.byteOffset,
      n,
      shrink,
      shift,
      out.byteOffset,
    ] as const),
  );
}

/** {@link rasterRowBetween} by plain TypeScript. */
export function rasterRowBetweenPlain(
  { width, height, data }: Rgba,
  xs: Float64Array,
  ys: Float64Array,
  n: number,
  shrink: number,
  shift: number,
  out: Float32Array,
): void {
  for (let i = 0; i < n; i++) {
    const x = xs[i] * shrink + shift - 0.5;
    const y = ys[i] * shrink + shift - 0.5;
    const there = x >= 0 && y >= 0 && x < width - 1 && y < height - 1;
    const [ix, iy] = there ? [Math.floor(x), Math.floor(y)] : [0, 0];
    for (let c = 0; c < 4; c++) {
      const k = 4 * (iy * width + ix) + c;
      const above = data[k] + (x - ix) * (data[k + 4] - data[k]);
      const m = k + 4 * width;
      const below = data[m] + (x - ix) * (data[m + 4] - data[m]);
      out[4 * i + c] = there ? (above + (y - iy) * (below - above)) / 255 : 0;
    }
  }
}

/** The kernels where they reach a raster, places and what receives its colours; null elsewhere. */
function reaching(raster: Rgba, xs: Float64Array, ys: Float64Array, out: Float32Array): Kernels | null {
  const all = kernels();
  return all && [raster.data, xs, ys, out].every((of) => of.buffer === (all.buffer as unknown)) ? all : null;
}

/** {@link rasterRow} by plain TypeScript. */
export function rasterRowPlain(
  { width, height, data }: Rgba,
  xs: Float64Array,
  ys: Float64Array,
  n: number,
  shrink: number,
  shift: number,
  out: Float32Array,
): void {
  for (let i = 0, o = 0; i < n; i++, o += 4) {
    const x = xs[i] * shrink + shift - 0.5;
    const y = ys[i] * shrink + shift - 0.5;
    if (!(x >= 1 && y >= 1 && x < width - 2 && y < height - 2)) {
      out[o] = out[o + 1] = out[o + 2] = out[o + 3] = 0;
      continue;
    }
    const px = (x * PHASES + 0.5) | 0;
    const py = (y * PHASES + 0.5) | 0;
    const ix = Math.min((px / PHASES) | 0, width - 3);
    const iy = Math.min((py / PHASES) | 0, height - 3);
    const wx = (px - ix * PHASES) << 2;
    const wy = (py - iy * PHASES) << 2;
    let r = 0;
    let g = 0;
    let b = 0;
    let a = 0;
    for (let j = 0; j < 4; j++) {
      let k = 4 * ((iy - 1 + j) * width + ix - 1);
      for (let c = 0; c < 4; c++, k += 4) {
        const weight = CUBIC_TABLE[wy + j] * CUBIC_TABLE[wx + c];
        r += weight * data[k];
        g += weight * data[k + 1];
        b += weight * data[k + 2];
        a += weight * data[k + 3];
      }
    }
    const alpha = Math.min(1, Math.max(0, a / 255));
    out[o] = Math.min(alpha, Math.max(0, r / 255));
    out[o + 1] = Math.min(alpha, Math.max(0, g / 255));
    out[o + 2] = Math.min(alpha, Math.max(0, b / 255));
    out[o + 3] = alpha;
  }
}
