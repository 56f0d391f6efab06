import type { Plane } from './plane.js';

/**
 * Smooths values along the edges of a picture: within a window the result is a linear function of the picture, so that it
 * steps where the picture does and nowhere else (He, Sun and Tang 2013, "Guided image filtering", eq. 5 to 8).
 *
 * One guide serves any number of filters: what depends on the picture alone is worked out once.
 */
export class GuidedFilter {
  private readonly mean: Float32Array;
  /** 1 / (variance + epsilon) of every window. */
  private readonly steep: Float32Array;
  private readonly room: readonly Float32Array[];

  /**
   * @param guide   the picture, `width` a row
   * @param radius  of the windows, which are 2 radius + 1 wide and high
   * @param edge    a step of this height in the picture is half kept
   */
  constructor(
    private readonly guide: Float32Array,
    private readonly width: number,
    private readonly height: number,
    private readonly radius: number,
    edge: number,
  ) {
    const n = width * height;
    this.room = Array.from({ length: 4 }, () => new Float32Array(n));
    this.mean = boxMean(guide, width, height, radius, new Float32Array(n));
    const [squares] = this.room;
    for (let p = 0; p < n; p++) squares[p] = guide[p] * guide[p];
    this.steep = boxMean(squares, width, height, radius, new Float32Array(n));
    for (let p = 0; p < n; p++)
      this.steep[p] = 1 / (Math.max(0, this.steep[p] - this.mean[p] * this.mean[p]) + edge * edge);
  }

  /**
   * Filters values in place.
   *
   * Cost: some twenty additions a sample, whatever the radius.
   */
  apply(values: Float32Array): void {
    const [slope, offset] = this.lines(values);
    for (let p = 0; p < values.length; p++) values[p] = slope[p] * this.guide[p] + offset[p];
  }

  /**
   * Values of 0 to 1 filtered, on the samples of a larger picture that the guide was made of: 0 to 255 each (He and Sun
   * 2015, "Fast guided filter").
   */
  enlarged(values: Float32Array, { width: w, height: h, stride, data }: Plane): Uint8Array {
    const { width, height } = this;
    const [slope, offset] = this.lines(values);
    const out = new Uint8Array(w * h);
    const column = new Int32Array(w);
    const share = new Float32Array(w);
    for (let x = 0; x < w; x++) [column[x], share[x]] = between(((x + 0.5) * width) / w - 0.5, width);
    // Both between two rows, with the last one twice.
    const [slopes, offsets] = [new Float32Array(width + 1), new Float32Array(width + 1)];
    for (let y = 0; y < h; y++) {
      const [j, t] = between(((y + 0.5) * height) / h - 0.5, height);
      const down = j + 1 < height ? width : 0;
      for (let i = 0, q = j * width; i < width; i++, q++) {
        slopes[i] = slope[q] + t * (slope[q + down] - slope[q]);
        offsets[i] = offset[q] + t * (offset[q + down] - offset[q]);
      }
      slopes[width] = slopes[width - 1];
      offsets[width] = offsets[width - 1];
      for (let x = 0, p = y * w; x < w; x++, p++) {
        const i = column[x];
        const s = share[x];
        const steep = slopes[i] + s * (slopes[i + 1] - slopes[i]);
        const v = steep * data[y * stride + x] + offsets[i] + s * (offsets[i + 1] - offsets[i]);
        out[p] = v <= 0 ? 0 : v >= 1 ? 255 : (255 * v + 0.5) | 0;
      }
    }
    return out;
  }

  /** The slope and the offset of each sample's linear function of the guide, means of those of its windows. */
  private lines(values: Float32Array): readonly [Float32Array, Float32Array] {
    const { guide, width, height, radius, mean, steep } = this;
    const [products, slope, offset, whole] = this.room;
    for (let p = 0; p < values.length; p++) products[p] = guide[p] * values[p];
    boxMean(products, width, height, radius, slope);
    boxMean(values, width, height, radius, offset);
    for (let p = 0; p < values.length; p++) {
      slope[p] = (slope[p] - mean[p] * offset[p]) * steep[p];
      offset[p] -= slope[p] * mean[p];
    }
    boxMean(slope, width, height, radius, products);
    boxMean(offset, width, height, radius, whole);
    return [products, whole];
  }
}

/** The sample at or before a place between samples, and how far on from it that is, 0 to 1. */
function between(at: number, n: number): readonly [number, number] {
  const within = Math.min(n - 1, Math.max(0, at));
  return [Math.floor(within), within - Math.floor(within)];
}

/** Means over windows of 2 radius + 1 samples across and down, cut off at the rim, by running sums. @returns `to` */
export function boxMean(
  from: Float32Array,
  width: number,
  height: number,
  radius: number,
  to: Float32Array,
): Float32Array {
  const sums = new Float64Array(width);
  const add = (y: number, sign: number) => {
    for (let x = 0, p = y * width; x < width; x++, p++) sums[x] += sign * from[p];
  };
  for (let y = 0; y < Math.min(radius, height); y++) add(y, 1);
  for (let y = 0; y < height; y++) {
    if (y + radius < height) add(y + radius, 1);
    if (y - radius > 0) add(y - radius - 1, -1);
    const rows = Math.min(height - 1, y + radius) - Math.max(0, y - radius) + 1;
    let sum = 0;
    for (let x = 0; x < Math.min(radius, width); x++) sum += sums[x];
    for (let x = 0, p = y * width; x < width; x++, p++) {
      if (x + radius < width) sum += sums[x + radius];
      if (x - radius > 0) sum -= sums[x - radius - 1];
      const columns = Math.min(width - 1, x + radius) - Math.max(0, x - radius) + 1;
      to[p] = sum / (rows * columns);
    }
  }
  return to;
}
