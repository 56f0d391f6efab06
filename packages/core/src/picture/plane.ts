/**
 * One channel of a picture, eight bits a sample, row by row.
 *
 * Coordinates are corner-based: sample (i, j) covers [i, i+1] x [j, j+1] and its centre is (i + 0.5, j + 0.5).
 */
export interface Plane {
  readonly width: number;
  readonly height: number;
  /** Samples from the start of one row to the start of the next; at least `width`. */
  readonly stride: number;
  readonly data: Uint8Array;
}

/** A new plane of zeros. Cost: one allocation of width x height bytes. */
export function createPlane(width: number, height: number): Plane {
  return { width, height, stride: width, data: new Uint8Array(width * height) };
}

/** A plane over existing bytes, which are not copied. Throws RangeError when there are too few of them. */
export function planeOver(data: Uint8Array, width: number, height: number, stride = width): Plane {
  if (data.length < stride * (height - 1) + width) {
    throw new RangeError(`A ${width} x ${height} plane needs more than ${data.length} bytes.`);
  }
  return { width, height, stride, data };
}

/** Quarter turns clockwise that bring a coded picture upright. */
export type QuarterTurns = 0 | 1 | 2 | 3;

/** The plane turned clockwise by quarter turns; the same plane where there is nothing to turn. */
export function turnPlane(plane: Plane, turns: QuarterTurns): Plane {
  if (turns === 0) return plane;
  const { width: w, height: h, stride, data } = plane;
  const out = turns === 2 ? createPlane(w, h) : createPlane(h, w);
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const at =
        turns === 1 ? x * h + (h - 1 - y) : turns === 2 ? (h - 1 - y) * w + (w - 1 - x) : (w - 1 - x) * h + y;
      out.data[at] = data[y * stride + x];
    }
  }
  return out;
}
