import type { PixelCode } from '@lurn/kernels';
import { yuvToRgb, type ColourCoding } from '../gl/colour.js';

/** Pixels of a canvas, row by row: red in the lowest byte of each, then green, blue and alpha. */
export interface Raster {
  readonly width: number;
  readonly height: number;
  readonly pixels: Int32Array;
}

function pixelOf(r: number, g: number, b: number): number {
  return (255 << 24) | (b << 16) | (g << 8) | r;
}

/** A grey of 0 to 1 as a pixel. */
export function greyPixel(grey: number): number {
  const v = Math.round(255 * grey);
  return pixelOf(v, v, v);
}

/** What eight-bit luma and chroma add to red, green and blue, in 1/65536. */
export interface ColourTables {
  readonly y: Int32Array;
  readonly rv: Int32Array;
  readonly gu: Int32Array;
  readonly gv: Int32Array;
  readonly bu: Int32Array;
  /** The same as factors. */
  readonly code: PixelCode;
}

export function colourTables(coding: ColourCoding, height: number): ColourTables {
  const { matrix, offset } = yuvToRgb(coding, height);
  const table = (factor: number, zero: number, round = 0) =>
    Int32Array.from({ length: 256 }, (_, v) => Math.round(65536 * factor * (v - 255 * zero)) + round);
  const whole = (factor: number) => Math.round(65536 * factor);
  const [ky, kr, ku, kv, kb] = [matrix[0], matrix[6], matrix[4], matrix[7], matrix[5]].map(whole);
  const zero = (factor: number, at: number) => Math.round(-factor * 255 * at);
  return {
    code: {
      ...{ ky, cy: zero(ky, offset[0]) + 32768, kr, cr: zero(kr, offset[2]), ku, kv },
      ...{ cg: zero(ku, offset[1]) + zero(kv, offset[2]), kb, cb: zero(kb, offset[1]) },
    },
    y: table(matrix[0], offset[0], 32768),
    rv: table(matrix[6], offset[2]),
    gu: table(matrix[4], offset[1]),
    gv: table(matrix[7], offset[2]),
    bu: table(matrix[5], offset[1]),
  };
}

/** Luma and chroma, whole numbers of 0 to 255, as a pixel. */
export function toPixel(t: ColourTables, y: number, u: number, v: number): number {
  const l = t.y[y];
  let r = (l + t.rv[v]) >> 16;
  let g = (l + t.gu[u] + t.gv[v]) >> 16;
  let b = (l + t.bu[u]) >> 16;
  // One test for all three: out of range is rare.
  if ((r | g | b) & ~255) {
    r = r < 0 ? 0 : r > 255 ? 255 : r;
    g = g < 0 ? 0 : g > 255 ? 255 : g;
    b = b < 0 ? 0 : b > 255 ? 255 : b;
  }
  return pixelOf(r, g, b);
}

/** Half of each: the pixel below, and the one on top as it is or as its negative. */
export function laidOver(above: number, below: number, negative: boolean): number {
  const top = negative ? ~above : above;
  return (255 << 24) | (((top & 0xfefefe) >>> 1) + ((below & 0xfefefe) >>> 1));
}
