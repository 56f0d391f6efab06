import { IDENTITY, invert, multiply } from '../../../geometry/matrix.js';
import { composeSimilarity, decomposeSimilarity } from '../../../geometry/similarity.js';
import { motionMatrix, type Motion } from '../../../solve/motion.js';
import { FADE, type Carried, type Carrying, type RideKind } from '../ride-kind.js';

/** A mover: its place, and if wished how it turns and grows. */
export interface MoverRide {
  readonly on: 'mover';
  readonly mover: string;
  readonly rotation: boolean;
  readonly scale: boolean;
}

export const MOVER_RIDE: RideKind<MoverRide> = { carry: byMotion };

function byMotion(
  { mover, rotation, scale }: MoverRide,
  { own, frame, unknown, middle, motions }: Carrying,
): Carried {
  const motion: Motion | undefined = motions[mover];
  if (!motion) return { m: IDENTITY, share: 1, confidence: 0 };
  // Beyond a cut there is another picture, which has nothing to do with where the layer was made.
  const part = (f: number) => motion.cuts?.filter((cut) => cut <= f).length ?? 0;
  if (part(own) !== part(frame)) return { m: IDENTITY, share: 0, confidence: 0 };
  const whole = multiply(motionMatrix(motion, frame), invert(motionMatrix(motion, own)));
  const known = motion.support[frame] !== 'none' || motion.filled?.[frame] === 1;
  let away = 0;
  if (!known && unknown === 'fade') {
    const { support } = motion;
    while (
      away <= FADE &&
      (support[frame - away] ?? 'none') === 'none' &&
      (support[frame + away] ?? 'none') === 'none'
    )
      away++;
  }
  const share = known ? 1 : unknown === 'off' ? 0 : 1 - away / (FADE + 1);
  const confidence = known ? 1 : 0;
  if (rotation && scale) return { m: whole, share: Math.max(0, share), confidence };
  const parts = decomposeSimilarity(whole, middle, motion.pixelAspect);
  const kept = { ...parts, rotation: rotation ? parts.rotation : 0, logScale: scale ? parts.logScale : 0 };
  return { m: composeSimilarity(kept, middle, motion.pixelAspect), share: Math.max(0, share), confidence };
}
