import { isAffine, multiply, type Matrix3, type Point } from './matrix.js';
import { chainKind, ChainedEvaluator, type ChainWarp } from './chain-warp.js';
import { matrixKind, MatrixEvaluator, matrixWarp, type MatrixWarp } from './matrix-warp.js';
import { meshKind, meshOver, type MeshWarp } from './mesh-warp.js';
import { unbentKind, type UnbentWarp } from './unbent-warp.js';
import type { Bounds, DrawnWarp, WarpEvaluator, WarpKind, WarpParts } from './warp-kind.js';

export { matrixWarp, type MatrixWarp } from './matrix-warp.js';
export { meshOver, type MeshWarp } from './mesh-warp.js';
export type { UnbentWarp } from './unbent-warp.js';
export { NOWHERE, type WarpEvaluator } from './warp-kind.js';

/**
 * What carries places of one picture to places of another: plain data, so that it can be sent to a worker or a server.
 * Whatever draws, samples, inverts or measures asks {@link evaluatorOf} for places and for the local scale,
 * {@link warpMatrix} for the matrix where it is one, {@link drawnWarp} for what a shader looks up; nothing looks inside.
 */
export type Warp = MatrixWarp | MeshWarp | UnbentWarp | ChainWarp<Warp>;

type Kinds = { [K in Warp['kind']]: WarpKind<Extract<Warp, { kind: K }>, Warp> };

const KINDS: Kinds = { matrix: matrixKind, mesh: meshKind, unbent: unbentKind, chain: chainKind() };

const kindOf = (warp: Warp) => KINDS[warp.kind] as WarpKind<Warp>;

const parts: WarpParts<Warp> = { evaluatorOf, before, after };

/** Cells of a mesh that stands for a mesh followed by a homography. */
const CELLS = 40;

export function evaluatorOf(warp: Warp): WarpEvaluator {
  return kindOf(warp).evaluator(warp, parts);
}

/** The matrix that a warp is; null where none does the same. */
export function warpMatrix(warp: Warp): Matrix3 | null {
  return kindOf(warp).matrix(warp);
}

/** What a shader looks places up by. @throws RangeError where none can: no picture is led to by such a warp */
export function drawnWarp(warp: Warp): DrawnWarp {
  const drawn = kindOf(warp).drawn(warp);
  if (!drawn)
    throw new RangeError(`A picture is drawn through a matrix or a mesh, not through "${warp.kind}".`);
  return drawn;
}

/** The bounds of what a warp takes to a margin round some places; null where they are not known. */
export function sourceBounds(warp: Warp, points: readonly Point[], margin: number): Bounds | null {
  return kindOf(warp).sourceBounds(warp, points, margin);
}

/** The warp that does `first` and then `warp`. */
export function before(warp: Warp, first: Matrix3): Warp {
  return kindOf(warp).before(warp, first, parts);
}

/** The warp that does `warp` and then an affine map: nodes can be moved by it, since it keeps straight lines divided alike. */
export function after(then: Matrix3, warp: Warp): Warp {
  return kindOf(warp).after(then, warp, parts);
}

/** One warp and then another, as simply as that can be told. */
export function chained(first: Warp, then: Warp): Warp {
  const [m, n] = [warpMatrix(first), warpMatrix(then)];
  if (m) return before(then, m);
  return n && isAffine(n) ? after(n, first) : { kind: 'chain', first, then };
}

/** An affine map, then a warp, then another affine map, as {@link before} and {@link after} have it. */
export function between(then: Matrix3, warp: Warp, first: Matrix3): Warp {
  return after(then, before(warp, first));
}

/** The matrix of a warp by which places go on by equal steps and the scale is the same everywhere; null for others. */
export function evenMatrix(warp: Warp): Matrix3 | null {
  const m = warpMatrix(warp);
  return m && isAffine(m) ? m : null;
}

/** Places that a warp leads to and a matrix after it, whether or not the warp can take the matrix in. */
export function placeThrough(warp: Warp, then: Matrix3): WarpEvaluator {
  const m = warpMatrix(warp);
  if (m) return new MatrixEvaluator(multiply(then, m));
  return isAffine(then)
    ? evaluatorOf(after(then, warp))
    : new ChainedEvaluator(evaluatorOf(warp), new MatrixEvaluator(then));
}

/** A warp and then a matrix: as a mesh over the rectangle from (0, 0) to (width, height) where nothing else tells it. */
export function thenMatrix(
  warp: Warp,
  then: Matrix3,
  { width, height }: { width: number; height: number },
): Warp {
  const m = warpMatrix(warp);
  if (m) return matrixWarp(multiply(then, m));
  if (isAffine(then)) return after(then, warp);
  const place = placeThrough(warp, then);
  return meshOver(width, height, CELLS, CELLS, (x, y) => place.at(x, y));
}

/** Places that the scale of a warp is looked at, across and down. */
const LOOKS = 8;

/** The least and the largest local scale over the rectangle from (0, 0) to (width, height). */
export function scaleRange(warp: Warp, width: number, height: number): { least: number; most: number } {
  const place = evaluatorOf(warp);
  if (evenMatrix(warp)) {
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
