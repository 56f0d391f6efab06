import { addressOf, kernels } from './instance.js';
import type { AnyPlane, BytePlane } from './plane.js';

const column = new Int32Array(16384 + 4);

/**
 * Halves a plane with the separable binomial filter [1 3 3 1] / 8, whose even length keeps corner-based coordinates
 * exact (x becomes x / 2); beyond the plane the nearest sample is repeated (Burt and Adelson 1983, "The Laplacian
 * pyramid as a compact image code", with an even kernel). Computes the samples [x0, x1) x [y0, y1) of `out`.
 *
 * Cost: about four multiply-adds a source sample. `| 0` keeps the indices small integers.
 */
export function halvePlain(
  plane: AnyPlane,
  out: AnyPlane,
  x0: number,
  y0: number,
  x1: number,
  y1: number,
): void {
  const { width, height, stride, data } = plane;
  const to = out.data;
  const left = (2 * x0 - 1) | 0;
  const count = (2 * (x1 - x0) + 2) | 0;
  const row = (y: number) => Math.imul(y < 0 ? 0 : y >= height ? height - 1 : y, stride) | 0;
  for (let y = y0 | 0; y < y1; y++) {
    const r0 = row(2 * y - 1);
    const r1 = row(2 * y);
    const r2 = row(2 * y + 1);
    const r3 = row(2 * y + 2);
    for (let i = 0; i < count; i++) {
      const at = (left + i) | 0;
      const x = at < 0 ? 0 : at >= width ? (width - 1) | 0 : at;
      column[i] = (data[r0 + x] + Math.imul(3, data[r1 + x] + data[r2 + x]) + data[r3 + x]) | 0;
    }
    let q = (Math.imul(y, out.stride) + x0) | 0;
    for (let c = 0; c < count - 2; c += 2) {
      to[q++] = (column[c] + Math.imul(3, column[c + 1] + column[c + 2]) + column[c + 3] + 32) >> 6;
    }
  }
}

/** {@link halvePlain}, by the kernel where both planes are in its memory: the same bits. */
export function halve(plane: AnyPlane, out: AnyPlane, x0: number, y0: number, x1: number, y1: number): void {
  const all = kernels();
  const from = all && plane.data instanceof Uint8Array ? addressOf(all, plane.data) : -1;
  const to = all && out.data instanceof Uint8Array ? addressOf(all, out.data) : -1;
  if (!all || from < 0 || to < 0) {
    halvePlain(plane, out, x0, y0, x1, y1);
    return;
  }
  const { width, height, stride } = plane as BytePlane;
  all.halve(from, width, height, stride, to, out.stride, x0, y0, x1, y1);
}
