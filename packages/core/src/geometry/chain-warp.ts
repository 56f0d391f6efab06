import type { Point } from './matrix.js';
import type { WarpEvaluator, WarpKind } from './warp-kind.js';

/** One warp and then another. */
export interface ChainWarp<Any> {
  readonly kind: 'chain';
  readonly first: Any;
  readonly then: Any;
}

/** One place after another. */
export class ChainedEvaluator implements WarpEvaluator {
  constructor(
    private readonly first: WarpEvaluator,
    private readonly then: WarpEvaluator,
  ) {}

  at(x: number, y: number): Point {
    const p = this.first.at(x, y);
    return this.then.at(p.x, p.y);
  }

  row(y: number, x0: number, x1: number, xs: Float64Array, ys: Float64Array): void {
    this.first.row(y, x0, x1, xs, ys);
    const n = Math.round(x1 - x0);
    for (let i = 0; i < n; i++) {
      const p = this.then.at(xs[i], ys[i]);
      xs[i] = p.x;
      ys[i] = p.y;
    }
  }

  scaleAt(x: number, y: number): number {
    const p = this.first.at(x, y);
    return this.first.scaleAt(x, y) * this.then.scaleAt(p.x, p.y);
  }
}

export const chainKind = <Any>(): WarpKind<ChainWarp<Any>, Any> => ({
  evaluator: ({ first, then }, { evaluatorOf }) =>
    new ChainedEvaluator(evaluatorOf(first), evaluatorOf(then)),
  before: (warp, first, { before }) => ({ ...warp, first: before(warp.first, first) }),
  after: (then, warp, { after }) => ({ ...warp, then: after(then, warp.then) }),
  matrix: () => null,
  drawn: () => null,
  sourceBounds: () => null,
});
