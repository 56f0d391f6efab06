import type { Matrix3, Point } from './matrix.js';
/** Where places behind the camera are said to lie: far outside any picture. */
export const NOWHERE = -1e6;

/** How a warp is asked. */
export interface WarpEvaluator {
  at(x: number, y: number): Point;
  /** Where (x0, y), (x0 + 1, y) ... up to but without (x1, y) go; written from the arrays' beginnings. */
  row(y: number, x0: number, x1: number, xs: Float64Array, ys: Float64Array): void;
  /** Square root of the area that it magnifies by at a place. */
  scaleAt(x: number, y: number): number;
}

/** What a shader looks places up by: a matrix, and then a grid of nodes over the unit square. */
export interface DrawnWarp {
  readonly matrix: Matrix3;
  readonly grid: { readonly columns: number; readonly rows: number; readonly to: Float64Array } | null;
}

export interface Bounds {
  readonly x0: number;
  readonly y0: number;
  readonly x1: number;
  readonly y1: number;
}

/** What is done to the parts of a warp that is made of others. */
export interface WarpParts<Any> {
  evaluatorOf(warp: Any): WarpEvaluator;
  before(warp: Any, first: Matrix3): Any;
  after(then: Matrix3, warp: Any): Any;
}

/**
 * One kind of warp: plain data, and what is asked of it. A new one is a file with such a record, entered in `warp.ts`.
 *
 * @typeParam W    the kind's data
 * @typeParam Any  any warp
 */
export interface WarpKind<W, Any = W> {
  evaluator(warp: W, parts: WarpParts<Any>): WarpEvaluator;
  /** The warp that does `first` and then this one. */
  before(warp: W, first: Matrix3, parts: WarpParts<Any>): W;
  /** The warp that does this one and then an affine map. */
  after(then: Matrix3, warp: W, parts: WarpParts<Any>): W;
  /** The matrix that it is; null where none does the same. */
  matrix(warp: W): Matrix3 | null;
  /** Null where no shader can look it up. */
  drawn(warp: W): DrawnWarp | null;
  /** The bounds of what it takes to some places and a margin round each; null where they are not known. */
  sourceBounds(warp: W, points: readonly Point[], margin: number): Bounds | null;
}
