/** Samples of eight bits, or of more in sixteen. */
export type Samples = Uint8Array | Uint16Array;

/**
 * One channel of a picture, row by row; eight bits a sample unless it says otherwise.
 *
 * Coordinates are corner-based: sample (i, j) covers [i, i+1] x [j, j+1] and its centre is (i + 0.5, j + 0.5).
 */
export interface Plane<S extends Samples = Uint8Array> {
  readonly width: number;
  readonly height: number;
  /** Samples from the start of one row to the start of the next; at least `width`. */
  readonly stride: number;
  readonly data: S;
  /** Bits of a sample, 8 to 16; 8 when left out. */
  readonly depth?: number;
  /** What of it is never measured: 1 for each sample that is closed, `width` a row; all is open when left out. */
  readonly covered?: Uint8Array;
}

/** A plane of any depth. */
export type AnyPlane = Plane<Samples>;

/** The largest value that a sample of a plane can have. */
export function peakOf({ depth = 8 }: Pick<AnyPlane, 'depth'>): number {
  return 2 ** depth - 1;
}

/** A new plane of zeros with samples as another's. */
export function planeLike<S extends Samples>(
  { data, depth }: Plane<S>,
  width: number,
  height: number,
): Plane<S> {
  const n = width * height;
  const made = (data instanceof Uint16Array ? new Uint16Array(n) : new Uint8Array(n)) as S;
  return { width, height, stride: width, data: made, ...(depth !== undefined && { depth }) };
}

/** A plane of more than eight bits over existing samples, which are not copied. Throws RangeError when there are too few. */
export function deepPlaneOver(
  data: Uint16Array,
  width: number,
  height: number,
  depth: number,
): Plane<Uint16Array> {
  if (data.length < width * height)
    throw new RangeError(`A ${width} x ${height} plane needs more than ${data.length} samples.`);
  return { width, height, stride: width, data, depth };
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

/** A plane's samples in floating point, `width` a row. */
export function floatsOf({ width, height, stride, data }: AnyPlane): Float32Array {
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++) out.set(data.subarray(y * stride, y * stride + width), y * width);
  return out;
}
