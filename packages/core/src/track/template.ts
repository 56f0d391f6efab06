import type { Pyramid } from '../picture/pyramid.js';
import { sampleGrid } from '../picture/sampling.js';
import { PatchAligner, type Allow } from './alignment.js';
import type { Patch } from './correlation.js';

/** Levels of the pyramid that a spot's search uses at the most. */
export const SEARCH_LEVELS = 4;
const SMALLEST_PATCH = 3;
const COARSE_REACH = 8;
/** A tenth of a sample is near enough for the next finer level to start from. */
const COARSE_SETTLED = 0.1;

/** A feature's looks at full size, with the aligners that place it to sub-pixel precision. */
export interface FineTemplate {
  readonly shift: PatchAligner;
  /** By the motion that the patch may do; the same as `shift` where texture does not determine more. */
  readonly shaped: PatchAligner;
}

/** A feature's looks at the coarser levels, for finding it anywhere in its reach. Index 0 is level 1. */
export type CoarseTemplate = readonly PatchAligner[];

export function takeFine(
  picture: Pyramid,
  x: number,
  y: number,
  [hw, hh]: readonly [number, number],
  allow: Allow,
): FineTemplate {
  picture.need(0, x - hw - 3, y - hh - 3, x + hw + 3, y + hh + 3);
  const patch = takePatch(picture, 0, x, y, hw, hh);
  const shift = new PatchAligner(patch, 'shift');
  const shaped = allow === 'shift' ? shift : new PatchAligner(patch, allow);
  return { shift, shaped: shaped.determined ? shaped : shift };
}

/** @param levels  how many, full size included; with one there is no coarse template */
export function takeCoarse(
  picture: Pyramid,
  x: number,
  y: number,
  [hw, hh]: readonly [number, number],
  levels: number,
): CoarseTemplate {
  const count = Math.min(levels, picture.levels.length);
  const margin = (SMALLEST_PATCH + 3) * 2 ** (count - 1);
  picture.need(count - 1, x - hw - margin, y - hh - margin, x + hw + margin, y + hh + margin);
  return Array.from({ length: count - 1 }, (_, k) => {
    const size = 2 ** (k + 1);
    const [w, h] = [hw, hh].map((half) => Math.max(SMALLEST_PATCH, Math.round(half / size)));
    return new PatchAligner(takePatch(picture, k + 1, x / size, y / size, w, h), 'shift', COARSE_SETTLED);
  });
}

function takePatch(picture: Pyramid, level: number, x: number, y: number, hw: number, hh: number): Patch {
  const values = new Float64Array((2 * hw + 1) * (2 * hh + 1));
  sampleGrid(picture.levels[level], x, y, hw, hh, values);
  return { hw, hh, values };
}

/** Enough levels that the reach is a handful of samples at the coarsest, while the patch still has structure. */
export function searchLevels(patch: readonly [number, number], reach: readonly [number, number]): number {
  let levels = 1;
  while (
    levels < SEARCH_LEVELS &&
    Math.max(...reach) / 2 ** (levels - 1) > COARSE_REACH &&
    Math.min(...patch) / 2 ** levels >= SMALLEST_PATCH
  ) {
    levels++;
  }
  return levels;
}
