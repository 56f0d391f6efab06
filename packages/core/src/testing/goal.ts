import type { Size } from '../framing/framing.js';
import type { GoalSettings } from '../plan/goals.js';
import type { ShotRequest } from '../plan/plan.js';

/** Still in every component, and nothing else asked for. */
export const PLAIN_GOAL: GoalSettings = {
  goal: 'still',
  amounts: { x: 1, y: 1, rotation: 1, scale: 1 },
  pose: 'frame',
  calm: { method: 'gaussian', smoothing: { x: 1, y: 1, rotation: 1, scale: 1 }, maxZoom: 1.15 },
  lock: { place: 'reference', x: 0, y: 0, tolerance: 0, easeIn: 0, easeOut: 0 },
  keys: [],
};

/** A whole clip steadied by that goal, nothing marked, the zoom fitted. */
export function plainRequest(size: Size, frames: number): ShotRequest {
  return {
    ...{ size, frames, pixelAspect: 1, fps: 30, spots: [], held: '', ref: 0, from: 0, to: frames - 1 },
    goal: PLAIN_GOAL,
    framing: { mode: 'fit', zoom: 1, rate: 0.05, shiftX: 0, shiftY: 0, delivery: null },
  };
}
