import { median } from 'd3-array';
import { invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import { motionMatrix, type Motion } from './motion.js';

/** A difference counts up to so many grey levels, of brightness and of its gradient. */
const MOST = 24;
const MOST_GRADIENT = 16;
/** ... and the gradient's so much of both: it does not change with the light. */
const BY_GRADIENT = 0.6;
/** The light of two pictures is compared on one in so many samples. */
const EVERY = 7;

/** A picture in floating point, and the frame that it is of. */
export interface GreyFrame {
  readonly frame: number;
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

/**
 * How badly every sample of a picture is found again on others by a motion, in grey levels: of those before and those
 * after, whichever are better, for what is hidden on one side is mostly seen on the other. NaN where the motion leads out
 * of all of them. Brightness and its gradient are compared (as by Hosni et al. 2013, eq. 2), each up to a limit.
 *
 * @param scale  samples a source pixel
 */
export function motionCost(
  motion: Motion,
  own: GreyFrame,
  others: readonly GreyFrame[],
  scale: number,
): Float32Array {
  const n = own.data.length;
  const back = invert(motionMatrix(motion, own.frame));
  const sides = [0, 1].map(() => ({ sum: new Float32Array(n), count: new Uint8Array(n) }));
  const off = new Float32Array(n);
  for (const other of others) {
    if (motion.support[other.frame] === 'none') continue;
    const [a, b, c, d, e, f, g, h, i] = multiply(motionMatrix(motion, other.frame), back);
    difference(own, other, [a, b, c * scale, d, e, f * scale, g / scale, h / scale, i], off);
    addCosts(own, off, sides[other.frame < own.frame ? 0 : 1]);
  }
  const [before, after] = sides;
  return off.map((_, p) => {
    const x = before.count[p] > 0 ? before.sum[p] / before.count[p] : Infinity;
    const y = after.count[p] > 0 ? after.sum[p] / after.count[p] : Infinity;
    const least = Math.min(x, y);
    return least < Infinity ? least : NaN;
  });
}

/** A picture less what of another lies where a matrix takes its samples; NaN where that is beyond it. */
function difference(
  { width, height, data }: GreyFrame,
  { data: from }: GreyFrame,
  [a, b, c, d, e, f, g, h, i]: Matrix3,
  off: Float32Array,
): void {
  for (let y = 0, p = 0; y < height; y++) {
    for (let x = 0; x < width; x++, p++) {
      const w = g * (x + 0.5) + h * (y + 0.5) + i;
      const u = (a * (x + 0.5) + b * (y + 0.5) + c) / w - 0.5;
      const v = (d * (x + 0.5) + e * (y + 0.5) + f) / w - 0.5;
      if (!(u >= 0 && v >= 0 && u < width - 1 && v < height - 1)) {
        off[p] = NaN;
        continue;
      }
      const q = (v | 0) * width + (u | 0);
      const [s, t] = [u - (u | 0), v - (v | 0)];
      const above = from[q] + s * (from[q + 1] - from[q]);
      const below = from[q + width] + s * (from[q + width + 1] - from[q + width]);
      off[p] = data[p] - (above + t * (below - above));
    }
  }
}

function addCosts(
  { width, height }: GreyFrame,
  off: Float32Array,
  { sum, count }: { readonly sum: Float32Array; readonly count: Uint8Array },
): void {
  const some: number[] = [];
  for (let p = 0; p < off.length; p += EVERY) if (off[p] === off[p]) some.push(off[p]);
  const light = median(some) ?? 0;
  for (let y = 0, p = 0; y < height; y++) {
    for (let x = 0; x < width; x++, p++) {
      const own = off[p];
      if (own !== own) continue;
      const right = x + 1 < width ? Math.abs(off[p + 1] - own) : 0;
      const down = y + 1 < height ? Math.abs(off[p + width] - own) : 0;
      const steep = right + down;
      const plain = Math.abs(own - light);
      // What lies beside something beyond the picture has no gradient: no comparison with NaN holds.
      sum[p] +=
        (1 - BY_GRADIENT) * (plain < MOST ? plain : MOST) +
        BY_GRADIENT * (steep < MOST_GRADIENT ? steep : MOST_GRADIENT);
      count[p]++;
    }
  }
}
