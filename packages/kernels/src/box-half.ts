import { kernels, SCRATCH, type Kernels } from './instance.js';
import type { BytePlane } from './plane.js';

/** Half a plane, rounded up, every sample the mean of four; an odd last row or column is repeated. */
export function boxHalfPlain({ width: w, height: h, stride, data }: BytePlane): BytePlane {
  const [width, height] = [(w + 1) >> 1, (h + 1) >> 1];
  const out = new Uint8Array(width * height);
  const whole = w >> 1;
  for (let y = 0; y < height; y++) {
    let a = 2 * y * stride;
    let b = 2 * y + 1 < h ? a + stride : a;
    let k = y * width;
    for (let x = 0; x < whole; x++, a += 2, b += 2) {
      out[k++] = (data[a] + data[a + 1] + data[b] + data[b + 1] + 2) >> 2;
    }
    if (whole < width) out[k] = (data[a] + data[b] + 1) >> 1;
  }
  return { width, height, stride: width, data: out };
}

/** {@link boxHalfPlain}, by the kernel, strip by strip, wherever the plane lies: the same bits. */
export function boxHalf(plane: BytePlane): BytePlane {
  const all = kernels();
  const { width: w, height: h } = plane;
  if (!all || w % 2 || h % 2 || 4 * plane.stride > SCRATCH) return boxHalfPlain(plane);
  const [width, height] = [w >> 1, h >> 1];
  const out = new Uint8Array(width * height);
  const strip = Math.floor(SCRATCH / (2 * plane.stride + width + 64));
  for (let y = 0; y < height; y += strip) halveStrip(all, plane, y, Math.min(strip, height - y), width, out);
  return { width, height, stride: width, data: out };
}

function halveStrip(
  { bytes, scratch, boxHalf }: Kernels,
  { data, stride }: BytePlane,
  y: number,
  rows: number,
  width: number,
  out: Uint8Array,
): void {
  const from = 2 * y * stride;
  const size = (2 * rows - 1) * stride + 2 * width;
  const to = (scratch + size + 63) & -64;
  bytes.set(data.subarray(from, from + size), scratch);
  boxHalf(scratch, stride, width, rows, to, width);
  out.set(bytes.subarray(to, to + rows * width), y * width);
}
