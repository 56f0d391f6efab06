import { apply, chain, isAffine, multiply, type Matrix3, type Point } from './matrix.js';
import { MatrixEvaluator, MeshEvaluator, ChainedEvaluator, type WarpEvaluator } from './warp-evaluators.js';
import type { MeshWarp, UnbentWarp } from './mesh-warp.js';
import { UnbentPlace } from './unbent-place.js';

export type { MeshWarp, UnbentWarp } from './mesh-warp.js';
export { NOWHERE, type WarpEvaluator } from './warp-evaluators.js';

/**
 * What carries places of one picture to places of another: a matrix, or a mesh. Whatever draws, samples, inverts or
 * measures asks {@link evaluatorOf} for places and for the local scale; nothing else looks inside.
 */
export type Warp = MatrixWarp | MeshWarp | UnbentWarp | ChainWarp;

export interface MatrixWarp {
  readonly kind: 'matrix';
  readonly m: Matrix3;
}

/** One warp and then another. */
export interface ChainWarp {
  readonly kind: 'chain';
  readonly first: Warp;
  readonly then: Warp;
}

export function matrixWarp(m: Matrix3): MatrixWarp {
  return { kind: 'matrix', m };
}

/** The warp that does `first` and then `warp`. */
export function before(warp: Warp, first: Matrix3): Warp {
  switch (warp.kind) {
    case 'matrix':
      return matrixWarp(multiply(warp.m, first));
    case 'mesh':
    case 'unbent':
      return { ...warp, before: multiply(warp.before, first) };
    case 'chain':
      return { ...warp, first: before(warp.first, first) };
  }
}

/** One warp and then another, as simply as that can be told. */
export function chained(first: Warp, then: Warp): Warp {
  if (first.kind === 'matrix') return before(then, first.m);
  if (then.kind === 'matrix' && isAffine(then.m)) return after(then.m, first);
  return { kind: 'chain', first, then };
}

/** The warp that does `warp` and then an affine map: nodes can be moved by it, since it keeps straight lines divided alike. */
export function after(then: Matrix3, warp: Warp): Warp {
  if (warp.kind === 'matrix') return matrixWarp(multiply(then, warp.m));
  if (!isAffine(then)) throw new RangeError('Only an affine map can follow a mesh.');
  if (warp.kind === 'unbent') return { ...warp, after: multiply(then, warp.after) };
  if (warp.kind === 'chain') return { ...warp, then: after(then, warp.then) };
  const to = new Float64Array(warp.to.length);
  for (let k = 0; k < to.length; k += 2) {
    const p = apply(then, warp.to[k], warp.to[k + 1]);
    to[k] = p.x;
    to[k + 1] = p.y;
  }
  return { ...warp, to };
}

/** An affine map, then a warp, then another affine map, as {@link before} and {@link after} have it. */
export function between(then: Matrix3, warp: Warp, first: Matrix3): Warp {
  return after(then, before(warp, first));
}

/** True for a matrix without perspective: places go on by equal steps, and the scale is the same everywhere. */
export function isEven(warp: Warp): warp is MatrixWarp {
  return warp.kind === 'matrix' && isAffine(warp.m);
}

export function evaluatorOf(warp: Warp): WarpEvaluator {
  switch (warp.kind) {
    case 'matrix':
      return new MatrixEvaluator(warp.m);
    case 'mesh':
      return new MeshEvaluator(warp);
    case 'unbent':
      return new UnbentPlace(warp);
    case 'chain':
      return new ChainedEvaluator(evaluatorOf(warp.first), evaluatorOf(warp.then));
  }
}

/** Places that a warp leads to and a matrix after it, whether or not the warp can take the matrix in. */
export function placeThrough(warp: Warp, then: Matrix3): WarpEvaluator {
  if (warp.kind === 'matrix') return evaluatorOf(matrixWarp(multiply(then, warp.m)));
  return isAffine(then)
    ? evaluatorOf(after(then, warp))
    : new ChainedEvaluator(evaluatorOf(warp), new MatrixEvaluator(then));
}

/** Places that the scale of a warp is looked at, across and down. */
const LOOKS = 8;

/** The least and the largest local scale over the rectangle from (0, 0) to (width, height). */
export function scaleRange(warp: Warp, width: number, height: number): { least: number; most: number } {
  const place = evaluatorOf(warp);
  if (isEven(warp)) {
    const scale = place.scaleAt(0, 0);
    return { least: scale, most: scale };
  }
  let least = Infinity;
  let most = 0;
  for (let j = 0; j <= LOOKS; j++) {
    for (let i = 0; i <= LOOKS; i++) {
      const scale = place.scaleAt((i / LOOKS) * width, (j / LOOKS) * height);
      least = Math.min(least, scale);
      most = Math.max(most, scale);
    }
  }
  return { least, most };
}

/** A mesh that does what a function does at its nodes, over the rectangle from (0, 0) to (width, height). */
export function meshOver(
  width: number,
  height: number,
  columns: number,
  rows: number,
  goesTo: (x: number, y: number) => Point,
): MeshWarp {
  const to = new Float64Array(2 * (columns + 1) * (rows + 1));
  for (let r = 0, k = 0; r <= rows; r++) {
    for (let c = 0; c <= columns; c++, k += 2) {
      const p = goesTo((c / columns) * width, (r / rows) * height);
      to[k] = p.x;
      to[k + 1] = p.y;
    }
  }
  return { kind: 'mesh', columns, rows, to, before: chain([1 / width, 0, 0, 0, 1 / height, 0, 0, 0, 1]) };
}
