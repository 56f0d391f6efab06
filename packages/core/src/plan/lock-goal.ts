import type { Size } from '../framing/framing.js';
import type { Point } from '../geometry/matrix.js';
import { NO_MOTION, type SimilarityParts } from '../geometry/similarity.js';
import type { Motion } from '../solve/motion.js';
import type { GoalKind } from './goal-kind.js';
import { gentle, type GoalSettings, type LockSettings, type Stage } from './goals.js';
import { beyondRange, partsOfRange, smoothed } from './parts-of-range.js';

/** The subject stays at a place of the frame, and the world moves round it. */
export const LOCK_GOAL: GoalKind = {
  goal: 'lock',
  easing: 'smooth',
  *wanted(motion, settings, stage) {
    const path = lockedPath(motion, settings, stage);
    yield;
    return path;
  },
  share({ lock }, stage, frame) {
    if (lock.easeIn <= 0 && lock.easeOut <= 0) return 1;
    const seconds = (frames: number) => frames / stage.fps;
    const rise = lock.easeIn > 0 ? gentle(seconds(frame - stage.from) / lock.easeIn) : 1;
    const fall = lock.easeOut > 0 ? gentle(seconds(stage.to - frame) / lock.easeOut) : 1;
    return rise * fall;
  },
  maxZoom: () => null,
  place: (motion, { lock }, size) => lockPlace(motion, lock, size),
};

/**
 * Where the subject is wanted. Within the tolerance it may follow its own smoothed course, softly limited
 * (hyperbolic tangent): small slow moves pass nearly whole, large ones come to rest at the tolerance, and at no
 * moment is there a corner. With tolerance 0 the subject is nailed to its place.
 */
function lockedPath(motion: Motion, settings: GoalSettings, stage: Stage): SimilarityParts[] {
  const { lock, calm } = settings;
  const place = lockPlace(motion, lock, stage.size);
  const target = { ...NO_MOTION, x: place.x - motion.pivot.x, y: place.y - motion.pivot.y };
  if (!(lock.tolerance > 0)) return motion.parts.map(() => target);
  const course = partsOfRange(motion, stage).flatMap((part) => smoothed(motion, calm.smoothing, part));
  return beyondRange(motion, course, stage).map((s) => {
    const dx = s.x - target.x;
    const dy = s.y - target.y;
    const far = Math.hypot(dx, dy) / lock.tolerance;
    const k = far > 1e-6 ? Math.tanh(far) / far : 1;
    return { ...target, x: target.x + k * dx, y: target.y + k * dy };
  });
}

/** Where the middle of the subject is held, in steadied coordinates. */
export function lockPlace(
  { pivot }: Pick<Motion, 'pivot'>,
  { place, x, y }: LockSettings,
  size: Size,
): Point {
  const places: Readonly<Record<typeof place, Point>> = {
    reference: pivot,
    middle: { x: size.width / 2, y: size.height / 2 },
    given: { x, y },
  };
  return places[place];
}
