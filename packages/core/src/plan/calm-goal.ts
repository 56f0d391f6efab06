import type { SimilarityParts } from '../geometry/similarity.js';
import type { GoalKind } from './goal-kind.js';
import { optimalParts } from './optimal-parts.js';
import { beyondRange, partsOfRange, smoothed } from './parts-of-range.js';

/** The shake goes and the moves that were meant stay: the motion smoothed, or the optimal path within a largest zoom. */
export const CALM_GOAL: GoalKind = {
  goal: 'calm',
  easing: 'smooth',
  *wanted(motion, { calm }, stage, amounts) {
    const path: SimilarityParts[] = [];
    for (const part of partsOfRange(motion, stage)) {
      const smooth = smoothed(motion, calm.smoothing, part);
      const best = calm.method === 'optimal' && part.to > part.from;
      path.push(...(best ? yield* optimalParts(motion, smooth, amounts, calm.maxZoom, part) : smooth));
    }
    return beyondRange(motion, path, stage);
  },
  share: () => 1,
  maxZoom: ({ calm }) => (calm.method === 'optimal' ? calm.maxZoom : null),
  place: () => null,
};
