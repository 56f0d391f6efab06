import { neededZoomThrough } from '../../framing/framing.js';
import { invert, multiply, type Matrix3 } from '../../geometry/matrix.js';
import { before, matrixWarp, type Warp } from '../../geometry/warp.js';
import { motionMatrix, type Motion } from '../../solve/motion.js';
import type { SolveSoft } from '../../solve/soft/soft-motion.js';
import { flatSide, softWarp } from '../../soft/soft-warps.js';
import type { Stage } from '../goals.js';

/**
 * Pixels of some picture to a frame's own, as shot, where a soft surface is laid flat: as it is on the reference frame, or to a shape of its own.
 *
 * @param toFrame  to the frame's, if it had moved as a whole alone
 */
export function throughBend(
  soft: SolveSoft,
  motion: Motion,
  frame: number,
  toFrame: Matrix3,
  rough = false,
): Warp {
  const bend = softWarp(soft, flatSide(soft, motion.ref), frame, rough);
  return bend ? before(bend, multiply(invert(motionMatrix(motion, frame)), toFrame)) : matrixWarp(toFrame);
}

/** The zoom that every frame would need: what is shown of it is bent. */
export function neededByBend(
  corrections: readonly Matrix3[],
  soft: SolveSoft,
  motion: Motion,
  { shift, size, window }: Pick<Stage, 'shift' | 'size' | 'window'>,
): Float64Array {
  return Float64Array.from(corrections, (s, f) =>
    neededZoomThrough(throughBend(soft, motion, f, invert(s), true), shift, size, window),
  );
}
