import type { Window } from '@lurn/kernels';
import type { Plane } from './plane.js';
import { UPRIGHT, type Shape } from './sampling.js';

/** Half the size: closed where any of the four samples is. */
export function halvedCover(cover: Uint8Array, width: number, height: number): Uint8Array {
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const out = new Uint8Array(w * h);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) if (cover[y * width + x]) out[(y >> 1) * w + (x >> 1)] = 1;
  return out;
}

let heights = new Int32Array(0);

/**
 * The largest rectangle without a closed sample in a part of a patch of (2 hw + 1) x (2 hh + 1) places that lies in a
 * picture at a pose: the part itself where nothing in it is closed, null where nothing is open. By the heights of the
 * open columns above each row.
 *
 * Cost: one look a sample where nothing is closed.
 */
export function openPart(
  { covered, width, height }: Pick<Plane, 'covered' | 'width' | 'height'>,
  { x, y, shape: [a, b, c, d] }: { readonly x: number; readonly y: number; readonly shape: Shape },
  hw: number,
  hh: number,
  part: Window,
): Window | null {
  if (!covered) return part;
  const { i0, i1, j0, j1 } = part;
  const n = i1 - i0;
  if (heights.length < n) heights = new Int32Array(n);
  heights.fill(0, 0, n);
  let any = false;
  let best: Window | null = null;
  let most = 0;
  for (let j = j0; j < j1; j++) {
    const v = j - hh;
    for (let i = 0; i < n; i++) {
      const u = i0 + i - hw;
      const px = Math.floor(x + a * u + b * v);
      const py = Math.floor(y + c * u + d * v);
      const inside = px >= 0 && py >= 0 && px < width && py < height;
      if (inside && covered[py * width + px] === 1) {
        heights[i] = 0;
        any = true;
      } else heights[i]++;
    }
    for (let i = 0; i < n; i++) {
      let low = heights[i];
      for (let k = i; k < n && low * (n - i) > most; k++) {
        low = Math.min(low, heights[k]);
        if (low * (k - i + 1) <= most) continue;
        most = low * (k - i + 1);
        best = { i0: i0 + i, i1: i0 + k + 1, j0: j - low + 1, j1: j + 1 };
      }
    }
  }
  return any ? best : part;
}

/** What of a patch may be measured where it is taken. */
export function openWindow(plane: Plane, x: number, y: number, hw: number, hh: number): Window {
  const whole = { i0: 0, i1: 2 * hw + 1, j0: 0, j1: 2 * hh + 1 };
  return openPart(plane, { x, y, shape: UPRIGHT }, hw, hh, whole) ?? { ...whole, i1: 0 };
}
