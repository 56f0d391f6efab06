import type { GoalSettings } from '../plan/goals.js';

/** Still in every component, and nothing else asked for. */
export const PLAIN_GOAL: GoalSettings = {
  goal: 'still',
  amounts: { x: 1, y: 1, rotation: 1, scale: 1 },
  pose: 'frame',
  calm: { method: 'gaussian', smoothing: { x: 1, y: 1, rotation: 1, scale: 1 }, maxZoom: 1.15 },
  lock: { place: 'reference', x: 0, y: 0, tolerance: 0, easeIn: 0, easeOut: 0 },
  keys: [],
};
