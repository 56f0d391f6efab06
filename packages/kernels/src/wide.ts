import type { AnyPlane } from './plane.js';

/** The kernel widens by this much at the most. */
export const WIDEST = 4;
const TAPS = Math.ceil(4 * WIDEST);
const tapsX = new Float64Array(TAPS);
const tapsY = new Float64Array(TAPS);

/**
 * The cubic convolution kernel with a = -1/2, which interpolates and reproduces quadratics
 * (Keys 1981, "Cubic convolution interpolation for digital image processing", eq. 15).
 * Its support is [-2, 2].
 */
export function cubic(t: number): number {
  const x = Math.abs(t);
  if (x < 1) return 1.5 * x * x * x - 2.5 * x * x + 1;
  if (x < 2) return -0.5 * x * x * x + 2.5 * x * x - 4 * x + 2;
  return 0;
}

/**
 * The plane at a place (corner-based) by the cubic kernel made wider by `shrink`, from 1 to {@link WIDEST}; beyond its rim
 * the outermost samples count on.
 * Cost: (4 shrink) squared multiply-adds.
 */
export function sampleWide(source: AnyPlane, x: number, y: number, shrink: number): number {
  const { width: w, height: h, stride, data } = source;
  const taps = Math.ceil(4 * shrink);
  const x0 = Math.floor(x - 0.5 - 2 * shrink) + 1;
  const y0 = Math.floor(y - 0.5 - 2 * shrink) + 1;
  let sx = 0;
  let sy = 0;
  for (let k = 0; k < taps; k++) {
    sx += tapsX[k] = cubic((x0 + k - x + 0.5) / shrink);
    sy += tapsY[k] = cubic((y0 + k - y + 0.5) / shrink);
  }
  const inside = x0 >= 0 && y0 >= 0 && x0 + taps <= w && y0 + taps <= h;
  let sum = 0;
  for (let r = 0; r < taps; r++) {
    let line = 0;
    if (inside) {
      const first = (y0 + r) * stride + x0;
      for (let c = 0; c < taps; c++) line += tapsX[c] * data[first + c];
    } else {
      const row = clamp(y0 + r, h) * stride;
      for (let c = 0; c < taps; c++) line += tapsX[c] * data[row + clamp(x0 + c, w)];
    }
    sum += tapsY[r] * line;
  }
  return sum / (sx * sy);
}

function clamp(i: number, size: number): number {
  return i < 0 ? 0 : i >= size ? size - 1 : i;
}
