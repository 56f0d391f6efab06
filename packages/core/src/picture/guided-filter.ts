import type { Plane } from './plane.js';

/** A picture as a guide: its brightness, or that and both colour differences; each as many samples. */
export type Guide = readonly [Float32Array] | readonly [Float32Array, Float32Array, Float32Array];

/**
 * Smooths values along the edges of a picture: within a window the result is a linear function of the picture, so that it
 * steps where the picture does and nowhere else (He, Sun and Tang 2013, "Guided image filtering", eq. 5 to 8; in colour
 * 14 to 16).
 *
 * One guide serves any number of filters: what depends on the picture alone is worked out once.
 */
export class GuidedFilter {
  private readonly means: readonly Float32Array[];
  /** Of every window the inverse of (covariance + epsilon), row by row. */
  private readonly inverse: readonly (readonly Float32Array[])[];
  private readonly room: readonly Float32Array[];

  /**
   * @param guide   the picture, `width` a row
   * @param radius  of the windows, which are 2 radius + 1 wide and high
   * @param edge    a step of this height in the picture is half kept
   */
  constructor(
    private readonly guide: Guide,
    private readonly width: number,
    private readonly height: number,
    private readonly radius: number,
    edge: number,
  ) {
    const n = width * height;
    this.room = Array.from({ length: 2 * guide.length + 3 }, () => new Float32Array(n));
    this.means = guide.map((of) => this.mean(of, new Float32Array(n)));
    const [products] = this.room;
    const covariance = guide.map((a, k) =>
      guide.slice(0, k + 1).map((b, l) => {
        for (let p = 0; p < n; p++) products[p] = a[p] * b[p];
        const out = this.mean(products, new Float32Array(n));
        addProduct(out, this.means[k], this.means[l], -1);
        if (k === l) for (let p = 0; p < n; p++) out[p] = Math.max(0, out[p]) + edge * edge;
        return out;
      }),
    );
    this.inverse = inverted(covariance);
  }

  /**
   * Filters values in place.
   *
   * Cost: some twenty additions a sample, whatever the radius; in colour some fifty.
   */
  apply(values: Float32Array): void {
    const [offset, ...slopes] = this.lines(values);
    values.set(offset);
    for (const [k, slope] of slopes.entries()) {
      const of = this.guide[k];
      for (let p = 0; p < values.length; p++) values[p] += slope[p] * of[p];
    }
  }

  /**
   * Values of 0 to 1 filtered, on the samples of a larger picture that the guide was made of: 0 to 255 each (He and Sun
   * 2015, "Fast guided filter").
   *
   * @param picture  the planes that the guide was made of, the first as large as what comes out
   */
  enlarged(values: Float32Array, picture: readonly Plane[]): Uint8Array {
    const { width, height } = this;
    const lines = this.lines(values);
    const [{ width: w, height: h }] = picture;
    const out = new Uint8Array(w * h);
    const column = new Int32Array(w);
    const share = new Float32Array(w);
    for (let x = 0; x < w; x++) [column[x], share[x]] = between(((x + 0.5) * width) / w - 0.5, width);
    // Each between two rows, with the last sample twice.
    const rows = lines.map(() => new Float32Array(width + 1));
    const sum = new Float32Array(w);
    for (let y = 0; y < h; y++) {
      const [j, t] = between(((y + 0.5) * height) / h - 0.5, height);
      const down = j + 1 < height ? width : 0;
      for (const [k, row] of rows.entries()) {
        const of = lines[k];
        for (let i = 0, q = j * width; i < width; i++, q++) row[i] = of[q] + t * (of[q + down] - of[q]);
        row[width] = row[width - 1];
        addRow(sum, row, column, share, k > 0 ? picture[k - 1] : null, y / h);
      }
      for (let x = 0, p = y * w; x < w; x++, p++) {
        out[p] = sum[x] <= 0 ? 0 : sum[x] >= 1 ? 255 : (255 * sum[x] + 0.5) | 0;
      }
    }
    return out;
  }

  /** The offset and the slopes of each sample's linear function of the guide, means of those of its windows. */
  private lines(values: Float32Array): readonly Float32Array[] {
    const { guide, means, inverse } = this;
    const [products, whole, mean, ...rest] = this.room;
    const [apart, slopes] = [rest.slice(0, guide.length), rest.slice(guide.length)];
    this.mean(values, mean);
    for (const [k, of] of guide.entries()) {
      for (let p = 0; p < values.length; p++) products[p] = of[p] * values[p];
      addProduct(this.mean(products, apart[k]), means[k], mean, -1);
    }
    for (const [k, row] of inverse.entries()) {
      products.fill(0);
      for (const [l, of] of row.entries()) addProduct(products, of, apart[l], 1);
      addProduct(mean, products, means[k], -1);
      this.mean(products, slopes[k]);
    }
    this.mean(mean, whole);
    return [whole, ...slopes];
  }

  private mean(from: Float32Array, to: Float32Array): Float32Array {
    return boxMean(from, this.width, this.height, this.radius, to);
  }
}

function addProduct(to: Float32Array, a: Float32Array, b: Float32Array, sign: 1 | -1): void {
  for (let p = 0; p < to.length; p++) to[p] += sign * a[p] * b[p];
}

/** Adds a row of coefficients, each times the plane's sample there; begins anew without a plane. @param at  0 to 1 of the way down */
function addRow(
  sum: Float32Array,
  row: Float32Array,
  column: Int32Array,
  share: Float32Array,
  plane: Plane | null,
  at: number,
): void {
  const line = plane ? Math.floor(at * plane.height) * plane.stride : 0;
  for (let x = 0; x < sum.length; x++) {
    const i = column[x];
    const v = row[i] + share[x] * (row[i + 1] - row[i]);
    if (plane) sum[x] += v * plane.data[line + Math.floor((x * plane.width) / sum.length)];
    else sum[x] = v;
  }
}

/** Of every sample the inverse of a symmetric matrix, of which the lower half is given: of one number, or of three by three. */
function inverted(lower: readonly (readonly Float32Array[])[]): Float32Array[][] {
  if (lower.length === 1) return [[lower[0][0].map((v) => 1 / v)]];
  const [[a], [b, c], [d, e, f]] = lower;
  const out = Array.from({ length: 6 }, () => new Float32Array(a.length));
  for (let p = 0; p < a.length; p++) {
    const [xx, xy, yy, xz, yz, zz] = [a[p], b[p], c[p], d[p], e[p], f[p]];
    const [u, v, w] = [yy * zz - yz * yz, xz * yz - xy * zz, xy * yz - xz * yy];
    const over = 1 / (xx * u + xy * v + xz * w);
    out[0][p] = over * u;
    out[1][p] = over * v;
    out[2][p] = over * w;
    out[3][p] = over * (xx * zz - xz * xz);
    out[4][p] = over * (xy * xz - xx * yz);
    out[5][p] = over * (xx * yy - xy * xy);
  }
  return [
    [out[0], out[1], out[2]],
    [out[1], out[3], out[4]],
    [out[2], out[4], out[5]],
  ];
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
