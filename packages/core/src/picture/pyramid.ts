import { createPlane, type Plane } from './plane.js';

/**
 * A picture at full size and repeatedly halved. Coordinates at level l are those at level 0 divided by 2^l,
 * exactly, in the corner-based frame.
 */
export interface Pyramid {
  readonly levels: readonly Plane[];
}

/**
 * Halves a plane with the separable binomial filter [1 3 3 1] / 8, whose even length keeps corner-based
 * coordinates exact (x becomes x / 2). Odd sizes round up, the last sample repeated.
 * (Burt and Adelson 1983, "The Laplacian pyramid as a compact image code", with an even kernel.)
 *
 * @param into  a plane of ceil(width / 2) x ceil(height / 2), reused; allocated when absent.
 * Cost: about four multiply-adds a source sample.
 */
export function halve(plane: Plane, into?: Plane): Plane {
  const { width, height, stride, data } = plane;
  const w = (width + 1) >> 1;
  const h = (height + 1) >> 1;
  const out = into && into.width === w && into.height === h ? into : createPlane(w, h);
  const column = new Int32Array(width + 3);
  for (let y = 0; y < h; y++) {
    const y1 = 2 * y * stride;
    const y0 = Math.max(0, 2 * y - 1) * stride;
    const y2 = Math.min(height - 1, 2 * y + 1) * stride;
    const y3 = Math.min(height - 1, 2 * y + 2) * stride;
    for (let x = 0; x < width; x++) {
      column[x + 1] = data[y0 + x] + 3 * (data[y1 + x] + data[y2 + x]) + data[y3 + x];
    }
    column[0] = column[1];
    column[width + 1] = column[width + 2] = column[width];
    const row = y * out.stride;
    for (let x = 0; x < w; x++) {
      const c = 2 * x;
      out.data[row + x] =
        (column[c] + 3 * (column[c + 1] + column[c + 2]) + column[c + 3] + 32) >> 6;
    }
  }
  return out;
}

/**
 * The pyramid of a plane with `count` levels, fewer when a level would be under 8 samples across.
 *
 * @param reuse  a pyramid of the same size whose halved levels are overwritten, to spare allocation per frame.
 */
export function buildPyramid(plane: Plane, count: number, reuse?: Pyramid): Pyramid {
  const levels: Plane[] = [plane];
  while (levels.length < count) {
    const last = levels[levels.length - 1];
    if (Math.min(last.width, last.height) < 16) break;
    levels.push(halve(last, reuse?.levels[levels.length]));
  }
  return { levels };
}
