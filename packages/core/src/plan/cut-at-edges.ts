import { sampleIndex } from '../scene/scene-tracks.js';
import type { AnalysedScene } from '../solve/analysed.js';
import type { Plan } from './plan.js';
import { deliveredPlace } from './plan-to-source.js';

/** Features this near to the picture's edge reach it, and so much beyond it is a gap; in parts of the picture's width. */
const [NEAR, GAP] = [0.025, 0.003];
/** Fewer of them may be strays. */
const FEWEST = 3;

/**
 * Features that move otherwise than what is held and reach an edge beyond which the delivered picture shows something:
 * other frames have them elsewhere, so that what is borrowed from those cuts them off.
 *
 * @param held  place of what is held in the scene's list
 * @returns how many they are; 0 where they are too few to tell. Cost: a look at each track.
 */
export function cutAtEdges(plan: Plan, scene: AnalysedScene, held: number, frame: number): number {
  const { tracks, moverOf } = scene;
  const { width, height } = plan.size;
  const [near, gap] = [NEAR * width, GAP * width];
  const shown = (x: number, y: number) => {
    const p = deliveredPlace(plan, frame, { x, y });
    return p.x > 0 && p.y > 0 && p.x < plan.delivery.width && p.y < plan.delivery.height;
  };
  let cut = 0;
  for (let k = 0; k < moverOf.length; k++) {
    if (moverOf[k] < 0 || moverOf[k] === held) continue;
    const at = sampleIndex(tracks, k, frame);
    if (at < 0) continue;
    const [x, y] = [tracks.x[at], tracks.y[at]];
    const beyond =
      (x < near && shown(-gap, y)) ||
      (x > width - near && shown(width + gap, y)) ||
      (y < near && shown(x, -gap)) ||
      (y > height - near && shown(x, height + gap));
    if (beyond) cut++;
  }
  return cut < FEWEST ? 0 : cut;
}
