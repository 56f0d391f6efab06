import type { Banded } from '../geometry/banded.js';

/** Linear limits on the values of one frame: `row . value <= bound` for each of `count` rows. */
export interface PathLimits {
  /** Rows for each frame. */
  readonly count: number;
  /** Coefficients: frame, row, component. */
  readonly rows: Float64Array;
  /** Bounds: frame, row. */
  readonly bounds: Float64Array;
}

export interface PathProblem {
  readonly frames: number;
  readonly components: number;
  /** Where to begin, frame by frame, component by component; within the limits if it can be. */
  readonly start: Float64Array;
  /** The least and the largest value, in the order of `start`. */
  readonly low: Float64Array;
  readonly high: Float64Array;
  readonly limits: PathLimits;
  /** What the first, second and third differences weigh. */
  readonly weights: readonly [number, number, number];
  /** The gap between primal and dual, for each inequality and in units of the values, that is good enough. */
  readonly gap: number;
}

/** Inequalities of one kind, with their slacks and multipliers: what a round of the interior-point method asks of them. */
export interface Inequalities {
  /** How many there are. */
  readonly pairs: number;
  /** Adds to the normal matrix, and the multipliers' pull to `gradient`. @returns the sum of slack times multiplier */
  assemble(matrix: Banded, gradient: Float64Array): number;
  /** Adds to the right-hand side what leads to complementarity `target`; `correct`: with Mehrotra's second order. */
  aim(target: number, correct: boolean, step: Float64Array): void;
  /** Slacks and multipliers follow a step of the values. @returns how far before one of each reaches zero */
  follow(step: Float64Array): { primal: number; dual: number };
  /** The sum of slack times multiplier once that has been done, as far as `primal` and `dual`. */
  gapAfter(primal: number, dual: number): number;
  move(primal: number, dual: number): void;
  /** The most by which values and slacks still miss a bound. */
  violation(): number;
}
