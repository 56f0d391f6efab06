import { NO_MOTION, type SimilarityParts } from '../geometry/similarity.js';
import type { Motion } from '../solve/motion.js';
import type { GoalKind } from './goal-kind.js';
import type { Stage } from './goals.js';
import { partsOfRange } from './parts-of-range.js';

/** What is held stands as on the reference frame, or as it does on average. */
export const STILL_GOAL: GoalKind = {
  goal: 'still',
  // What is to stand does so until the next.
  easing: 'hold',
  *wanted(motion, settings, stage) {
    const wanted: SimilarityParts[] = motion.parts.map(() => NO_MOTION);
    if (settings.pose === 'frame') return wanted;
    const poses: { readonly to: number; readonly pose: SimilarityParts }[] = [];
    for (const part of partsOfRange(motion, stage)) {
      poses.push({ to: part.to, pose: averagePose(motion, part) });
      yield;
    }
    const last = poses[poses.length - 1];
    return wanted.map((_, f) => (poses.find((p) => f <= p.to) ?? last).pose);
  },
  share: () => 1,
  maxZoom: () => null,
  place: () => null,
};

/** The mean of the parts over those frames of the range that were measured. */
function averagePose({ parts, support }: Motion, { from, to }: Stage): SimilarityParts {
  const sum = { x: 0, y: 0, rotation: 0, logScale: 0 };
  let n = 0;
  for (let f = from; f <= to; f++) {
    if (support[f] === 'none') continue;
    n++;
    sum.x += parts[f].x;
    sum.y += parts[f].y;
    sum.rotation += parts[f].rotation;
    sum.logScale += parts[f].logScale;
  }
  n ||= 1;
  return { x: sum.x / n, y: sum.y / n, rotation: sum.rotation / n, logScale: sum.logScale / n };
}
