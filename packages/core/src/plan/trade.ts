import { fitZoom } from '../framing/framing.js';
import type { Motion } from '../solve/motion.js';
import { inOneGo, type Steps } from '../steps.js';
import type { GoalSettings } from './goals.js';
import { pathFor } from './path.js';
import { neededBy, stageOf, type PlanRequest } from './plan.js';

export interface TradePoint {
  readonly value: number;
  /** The fit zoom that it costs; Infinity where none fits. */
  readonly zoom: number;
}

/** Smoothing seconds and amounts that the price in zoom is told for. */
const SMOOTHINGS = [0, 0.1, 0.17, 0.25, 0.35, 0.5, 0.7, 1, 1.4, 2, 2.8, 4, 5.6, 8];
const SHARES = [0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1];

export interface Trade {
  readonly kind: 'smoothing' | 'share';
  readonly points: readonly TradePoint[];
}

/**
 * What less would cost: the fit zoom against the smoothing (Calm by the Gaussian), or against the share of the
 * present amounts (the other goals).
 */
export function tradeOff(motion: Motion, request: PlanRequest): Trade {
  return inOneGo(tradeSteps(motion, request));
}

/** The same point by point. */
export function* tradeSteps(motion: Motion, request: PlanRequest): Steps<Trade> {
  const { goal, from, to } = request;
  const stage = stageOf(request);
  const smoothing = goal.goal === 'calm' && goal.calm.method === 'gaussian' && goal.keys.length === 0;
  const points: TradePoint[] = [];
  for (const value of smoothing ? SMOOTHINGS : SHARES) {
    const changed = smoothing ? smoothedBy(goal, value) : lessOf(goal, value);
    const { corrections } = pathFor(motion, changed, stage);
    points.push({ value, zoom: Math.max(1, fitZoom(neededBy(corrections, stage), from, to).zoom) });
    yield;
  }
  return { kind: smoothing ? 'smoothing' : 'share', points };
}

function smoothedBy(goal: GoalSettings, s: number): GoalSettings {
  return { ...goal, calm: { ...goal.calm, smoothing: { x: s, y: s, rotation: s, scale: s } } };
}

/** The goal with a share of its amounts. For the optimal path the Gaussian stands in, which takes no time. */
function lessOf(goal: GoalSettings, k: number): GoalSettings {
  const less = <T extends { readonly amounts: GoalSettings['amounts'] }>(of: T): T => {
    const { x, y, rotation, scale } = of.amounts;
    return { ...of, amounts: { x: k * x, y: k * y, rotation: k * rotation, scale: k * scale } };
  };
  return {
    ...less(goal),
    calm: { ...goal.calm, method: 'gaussian' },
    keys: goal.keys.map((key) => less(key)),
  };
}
