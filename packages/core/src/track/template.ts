import { PATCH_SUMS, patchSums } from '@lurn/kernels';
import type { Pyramid } from '../picture/pyramid.js';
import { openWindow } from '../picture/cover.js';
import { sampleGrid } from '../picture/sampling.js';
import { PatchAligner, type Allow } from './alignment.js';
import { score, type Patch } from './correlation.js';

/** Levels of the pyramid that a spot's search uses at the most. */
export const SEARCH_LEVELS = 4;
/** Half-size of the smallest patch that is matched, in samples of its level. */
export const SMALLEST_PATCH = 3;
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
  const open = openWindow(picture.levels[0], x, y, hw, hh);
  const shift = new PatchAligner(patch, 'shift', undefined, open);
  const shaped = allow === 'shift' ? shift : new PatchAligner(patch, allow, undefined, open);
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

/** The level on which a patch's surroundings are looked at, and how many times its size they are. */
const CONTEXT_LEVEL = 2;
const CONTEXT_SIZE = 2;

/** A feature's surroundings, coarsely: what goes with it when the camera jolts, and not with its lookalikes. */
export interface Context {
  readonly patch: Patch;
  readonly level: number;
}

export function takeContext(
  picture: Pyramid,
  x: number,
  y: number,
  patch: readonly [number, number],
): Context {
  const level = Math.min(CONTEXT_LEVEL, picture.levels.length - 1);
  const [hw, hh] = contextHalf(patch, level);
  needContext(picture, x, y, hw, hh, level);
  const size = 2 ** level;
  return { patch: takePatch(picture, level, x / size, y / size, hw, hh), level };
}

const sums = new Float64Array(PATCH_SUMS);

/** How well the surroundings of a place correlate with a feature's, -1 to 1. Cost: that of one patch, quartered. */
export function contextScore({ patch, level }: Context, picture: Pyramid, x: number, y: number): number {
  const { hw, hh, values } = patch;
  needContext(picture, x, y, hw, hh, level);
  const size = 2 ** level;
  const seen = takePatch(picture, level, x / size, y / size, hw, hh).values;
  const n = 2 * hw + 1;
  patchSums(values, seen, n, { i0: 0, i1: n, j0: 0, j1: 2 * hh + 1 }, sums);
  const [sa, saa, sb, sbb, sab] = sums;
  return score(values.length, sa, saa, sb, sbb, sab);
}

function contextHalf([hw, hh]: readonly [number, number], level: number): readonly [number, number] {
  return [Math.ceil((CONTEXT_SIZE * hw) / 2 ** level), Math.ceil((CONTEXT_SIZE * hh) / 2 ** level)];
}

function needContext(picture: Pyramid, x: number, y: number, hw: number, hh: number, level: number): void {
  const [mx, my] = [(hw + 3) * 2 ** level, (hh + 3) * 2 ** level];
  picture.need(level, x - mx, y - my, x + mx, y + my);
}

function takePatch(picture: Pyramid, level: number, x: number, y: number, hw: number, hh: number): Patch {
  const values = new Float32Array((2 * hw + 1) * (2 * hh + 1));
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
