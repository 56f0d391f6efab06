import { inOneGo, type Steps } from '../steps.js';
import { bandedMatrix, factorise, solveFactorised } from '../geometry/banded.js';
import { Box, Limits } from './limits.js';
import { Magnitudes, PATH_ORDERS } from './magnitudes.js';
import type { Inequalities, PathProblem } from './path-problem.js';

/** Weights of the first, second and third difference (Grundmann, Kwatra and Essa 2011, section 3.4). */
export const PATH_WEIGHTS = [10, 1, 100] as const;

const MOST_ROUNDS = 80;
/** How far towards the boundary a step goes. */
const STEP = 0.995;
/** Added to the diagonal, so that what nothing holds stays where it is. */
const HOLD = 1e-9;
/** Shorter steps than this lead nowhere. */
const LEAST_STEP = 1e-10;

/**
 * The path whose first, second and third differences have the least weighted sum of magnitudes within linear limits
 * on each frame: pieces of standing still, of constant speed and of constant acceleration, as a camera on tripod,
 * dolly and crane would go (Grundmann, Kwatra and Essa, "Auto-directed video stabilization with robust L1 optimal
 * camera paths", CVPR 2011, equation 4).
 *
 * Solved as a linear program by Mehrotra's predictor-corrector interior-point method. The slacks of the magnitudes
 * are eliminated as in l1 trend filtering (Kim, Koh, Boyd and Gorinevsky 2009), so that each round factorises one
 * banded matrix. Cost: frames x rounds; a few dozen rounds whatever the length.
 *
 * @returns values in the order of `start`
 */
export function optimalPath(problem: PathProblem): Float64Array {
  return inOneGo(optimalPathSteps(problem));
}

/** The same round by round. */
export function* optimalPathSteps(problem: PathProblem): Steps<Float64Array> {
  const { components } = problem;
  const w = problem.start.slice();
  const size = w.length;
  const kinds: Inequalities[] = [new Magnitudes(problem), new Box(problem), new Limits(problem)];
  const pairs = sum(kinds, (k) => k.pairs);
  const matrix = bandedMatrix(size, PATH_ORDERS * components + components - 1);
  const gradient = new Float64Array(size);
  const step = new Float64Array(size);
  const direction = (target: number, correct: boolean) => {
    for (let i = 0; i < size; i++) step[i] = -gradient[i];
    for (const kind of kinds) kind.aim(target, correct, step);
    solveFactorised(matrix, step);
    let [primal, dual] = [Infinity, Infinity];
    for (const kind of kinds) {
      const far = kind.follow(step);
      primal = Math.min(primal, far.primal);
      dual = Math.min(dual, far.dual);
    }
    return { primal, dual };
  };
  for (let round = 0; round < MOST_ROUNDS; round++) {
    matrix.data.fill(0);
    gradient.fill(0);
    const gap = sum(kinds, (k) => k.assemble(matrix, gradient)) / pairs;
    if (gap < problem.gap && kinds.every((k) => k.violation() < 1e-6)) break;
    for (let i = 0; i < size; i++) matrix.data[i * (matrix.band + 1)] += HOLD;
    factorise(matrix);
    const ahead = direction(0, false);
    const after = sum(kinds, (k) => k.gapAfter(ahead.primal, ahead.dual)) / pairs;
    const far = direction(gap * Math.min(1, after / gap) ** 3, true);
    const primal = Math.min(1, STEP * far.primal);
    const dual = Math.min(1, STEP * far.dual);
    for (let i = 0; i < size; i++) w[i] += primal * step[i];
    for (const kind of kinds) kind.move(primal, dual);
    if (primal < LEAST_STEP && dual < LEAST_STEP) break;
    yield;
  }
  return w;
}

function sum<T>(list: readonly T[], of: (item: T) => number): number {
  return list.reduce((total, item) => total + of(item), 0);
}
