import { neededZoom } from '../framing/framing.js';
import { invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity, type SimilarityParts } from '../geometry/similarity.js';
import { lastThatHolds } from '../numbers.js';
import { motionMatrix, type Motion } from '../solve/motion.js';
import { inOneGo, type Steps } from '../steps.js';
import { goalKind } from './goal-kinds.js';
import {
  approach,
  stateAt,
  type Amounts,
  type Goal,
  type GoalSettings,
  type KeyedState,
  type Stage,
} from './goals.js';
import { clampTo } from './parts-of-range.js';

export interface Path {
  /** The motion that is wanted in place of the measured one. */
  readonly wanted: readonly SimilarityParts[];
  /** The motion that is kept: from the measured one towards the wanted by the amounts. */
  readonly kept: readonly SimilarityParts[];
  /** S of every frame: kept times the inverse of measured. */
  readonly corrections: readonly Matrix3[];
}

/**
 * From the measured motion to the correction: the wanted motion by goal, approached by the amounts, component by
 * component. Outside the range the difference of its nearest end is held, so that nothing jumps there.
 * Cost: linear in frames.
 */
export function pathFor(motion: Motion, settings: GoalSettings, stage: Stage): Path {
  return inOneGo(pathSteps(motion, settings, stage));
}

/** The same in steps: the optimal path of a long shot takes seconds. */
export function* pathSteps(motion: Motion, settings: GoalSettings, stage: Stage): Steps<Path> {
  const { parts, pivot, pixelAspect } = motion;
  const states = parts.map((_, f) => stateAt(settings, clampTo(f, stage)));
  const amounts = states.map((state, f) => easedAmounts(state, settings, stage, f));
  const used = new Set(states.flatMap((s) => (s.share > 0 ? [s.goal, s.next] : [s.goal])));
  const paths = new Map<Goal, readonly SimilarityParts[]>();
  for (const goal of used) paths.set(goal, yield* goalKind(goal).wanted(motion, settings, stage, amounts));
  const wanted = states.map(({ goal, next, share }, f) => {
    const here = paths.get(goal)![f];
    return share > 0 && next !== goal ? mixParts(here, paths.get(next)![f], share) : here;
  });
  const kept = parts.map((m, f) => approach(m, wanted[f], amounts[f]));
  const limitOn = ({ goal, share }: KeyedState) => (share === 0 ? goalKind(goal).maxZoom(settings) : null);
  const corrections = parts.map((m, f) => {
    const back = invert(motionMatrix(motion, f));
    const correct = (l: SimilarityParts) => multiply(composeSimilarity(l, pivot, pixelAspect), back);
    const inRange = f >= stage.from && f <= stage.to;
    const maxZoom = inRange ? limitOn(states[f]) : null;
    if (maxZoom !== null) kept[f] = withinZoom(m, kept[f], correct, maxZoom, stage);
    return correct(kept[f]);
  });
  return { wanted, kept, corrections };
}

/** The amounts by the shares that the goals on either side of a frame grant. */
function easedAmounts(
  { amounts, goal, next, share }: KeyedState,
  settings: GoalSettings,
  stage: Stage,
  frame: number,
): Amounts {
  const less = (of: Goal) => 1 - goalKind(of).share(settings, stage, frame);
  const k = 1 - ((1 - share) * less(goal) + (share > 0 ? share * less(next) : 0));
  if (k === 1) return amounts;
  return { x: k * amounts.x, y: k * amounts.y, rotation: k * amounts.rotation, scale: k * amounts.scale };
}

function mixParts(a: SimilarityParts, b: SimilarityParts, t: number): SimilarityParts {
  return approach(a, b, { x: t, y: t, rotation: t, scale: t });
}

/** As near to `wanted` as the zoom limit allows, on the way from the picture as shot. */
function withinZoom(
  measured: SimilarityParts,
  wanted: SimilarityParts,
  correct: (parts: SimilarityParts) => Matrix3,
  maxZoom: number,
  { shift, size, window }: Stage,
): SimilarityParts {
  const fits = (p: SimilarityParts) => neededZoom(correct(p), shift, size, window) <= maxZoom;
  if (fits(wanted)) return wanted;
  const share = lastThatHolds(0, 1, (t) => fits(mixParts(measured, wanted, t)));
  return mixParts(measured, wanted, share);
}
