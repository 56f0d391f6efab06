import { addressOf, kernelBytes, kernels, type Kernels } from './instance.js';
import { CUBIC_TABLE, PHASES } from './weights.js';
import type { AnyPlane, BytePlane } from './plane.js';

/**
 * Places of a row by cubic convolution (Keys 1981), from the first to `end` or to the first that does not have all of its
 * sixteen samples in the plane; phases are rounded.
 *
 * @param xs, ys  corner-based places in the plane
 * @param out     receives the values from `at` on, kept from 0 to `peak`
 * @returns the first place that was not drawn
 * Cost: sixteen multiply-adds a place.
 */
export function cubicRow(
  { width, height, stride, data }: AnyPlane,
  xs: Float64Array,
  ys: Float64Array,
  from: number,
  end: number,
  out: Uint8Array | Uint16Array,
  at: number,
  peak: number,
): number {
  const W = CUBIC_TABLE;
  for (let i = from; i < end; i++) {
    // Index coordinates: the half sample is taken off here, once.
    const x = xs[i] - 0.5;
    const y = ys[i] - 0.5;
    const ix = Math.floor(x);
    const iy = Math.floor(y);
    if (!(ix >= 1 && iy >= 1 && ix < width - 2 && iy < height - 2)) return i;
    const wx = (((x - ix) * PHASES + 0.5) | 0) << 2;
    const wy = (((y - iy) * PHASES + 0.5) | 0) << 2;
    const a0 = W[wx];
    const a1 = W[wx + 1];
    const a2 = W[wx + 2];
    const a3 = W[wx + 3];
    let p = (iy - 1) * stride + ix - 1;
    let sum = W[wy] * (a0 * data[p] + a1 * data[p + 1] + a2 * data[p + 2] + a3 * data[p + 3]);
    p += stride;
    sum += W[wy + 1] * (a0 * data[p] + a1 * data[p + 1] + a2 * data[p + 2] + a3 * data[p + 3]);
    p += stride;
    sum += W[wy + 2] * (a0 * data[p] + a1 * data[p + 1] + a2 * data[p + 2] + a3 * data[p + 3]);
    p += stride;
    sum += W[wy + 3] * (a0 * data[p] + a1 * data[p + 1] + a2 * data[p + 2] + a3 * data[p + 3]);
    out[at + i] = sum < 0 ? 0 : sum > peak ? peak : (sum + 0.5) | 0;
  }
  return end;
}

/** Numbers evenly apart: `out[i] = x + i dx` for the first `n`; by the kernel where it reaches them, to the same bits. */
export function evenRow(x: number, dx: number, n: number, out: Float64Array): void {
  const all = out.buffer instanceof ArrayBuffer ? null : kernels();
  if (all && out.buffer === all.buffer) all.evenRow(x, dx, n, out.byteOffset);
  else for (let i = 0; i < n; i++) out[i] = x + i * dx;
}

/** Room in the kernels' memory that is kept from one plane to the next: a copy of the plane, and a row. */
let copied: Uint8Array | null = null;
let row: Uint8Array | null = null;
let places: Uint8Array | null = null;

function room(present: Uint8Array | null, size: number): Uint8Array | null {
  return present && present.length >= size ? present : kernelBytes(size);
}

/** Places x + i dx, y + i dy of a row, corner-based in a plane. */
export interface EvenSteps {
  readonly x: number;
  readonly y: number;
  readonly dx: number;
  readonly dy: number;
}

/** Places beyond this are in no plane. */
const FAR = 2 ** 20;

/** Rows of a plane by cubic convolution: the kernel does what lies well inside the plane. */
export class CubicRows {
  /** Corner-based places in the plane, to be filled for each row. */
  readonly xs: Float64Array;
  readonly ys: Float64Array;
  private readonly all: Kernels | null;
  private readonly address: number;

  /** @param n  places of a row. The plane is copied where the kernels do not reach it. */
  constructor(
    private readonly source: AnyPlane,
    private readonly n: number,
  ) {
    const all = kernels();
    let address = -1;
    if (all && source.data instanceof Uint8Array) {
      row = room(row, n);
      places = room(places, 16 * (n + 8));
      address = row && places ? this.reach(all, source as BytePlane) : -1;
    }
    this.all = address >= 0 ? all : null;
    this.address = address;
    const { buffer, byteOffset } = this.all ? places! : new Float64Array(2 * (n + 8));
    this.xs = new Float64Array(buffer, byteOffset, n);
    this.ys = new Float64Array(buffer, byteOffset + 8 * (n + 8), n);
  }

  private reach(all: Kernels, { data, stride, height, width }: BytePlane): number {
    const address = addressOf(all, data);
    if (address >= 0) return address;
    const size = stride * (height - 1) + width;
    copied = room(copied, size);
    if (!copied) return -1;
    copied.set(data.subarray(0, size));
    return copied.byteOffset;
  }

  /**
   * Draws places of a row that go on by equal steps, as {@link cubicRow} does: within one grey level of it. `xs` and
   * `ys` are not used.
   *
   * @returns the first place that was not drawn: where eight in a row do not all lie well inside the plane
   */
  drawEven({ x, y, dx, dy }: EvenSteps, from: number, out: Uint8Array | Uint16Array, at: number): number {
    const { all, address, source, n } = this;
    if (!all || !(dx > 0 && dx <= 1.5 && Math.abs(dy) <= 0.125)) return from;
    if (!(Math.abs(x) < FAR && Math.abs(y) < FAR)) return from;
    const { width, height, stride } = source;
    const to = all.cubicEvenRow(address, width, height, stride, x, y, dx, dy, from, n, row!.byteOffset);
    if (to > from) out.set(row!.subarray(from, to), at + from);
    return to;
  }

  /**
   * Draws places of a row that go on by equal steps by the kernel made wider by `shrink`, as {@link sampleWide} does:
   * to the same level but for what single precision leaves. `xs` and `ys` are not used.
   *
   * @returns the first place that was not drawn: where not all of its samples, eight by eight, lie in the plane
   */
  drawWide(
    { x, y, dx, dy }: EvenSteps,
    shrink: number,
    from: number,
    out: Uint8Array | Uint16Array,
    at: number,
  ): number {
    const { all, address, source, n } = this;
    if (!all || shrink > 2) return from;
    const { width, height, stride } = source;
    const to = row!.byteOffset;
    const i = all.wideEvenRow(address, width, height, stride, x, y, dx, dy, shrink, from, n, to, all.scratch);
    if (i > from) out.set(row!.subarray(from, i), at + from);
    return i;
  }

  /**
   * Draws places of the row that `xs` and `ys` hold, as {@link cubicRow} does: within one grey level of it.
   *
   * @returns the first place that was not drawn
   */
  draw(from: number, out: Uint8Array | Uint16Array, at: number, peak: number): number {
    const { all, address, source, n, xs, ys } = this;
    let i = from;
    if (all) {
      const { width, height, stride } = source;
      const to = row!.byteOffset;
      i = all.cubicRow(address, width, height, stride, xs.byteOffset, ys.byteOffset, i, n, all.cubic, to);
      out.set(row!.subarray(from, i), at + from);
    }
    return cubicRow(source, xs, ys, i, all ? Math.min(n, i + 4) : n, out, at, peak);
  }
}
