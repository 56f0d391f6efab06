import { carry, staysInFrame } from '../compose/ride.js';
import type { Unknown } from '../compose/rides/ride-kind.js';
import type { LookLayer } from '../compose/look-layer.js';
import type { Motion } from '../solve/motion.js';
import { spanWords, stretchesOf, type AcceptedDoubt, type Doubt } from './doubts.js';

/** A layer as doubts are told of it. */
export interface DoubtedLayer {
  readonly id: string;
  readonly name: string;
  /** It makes something unreadable: where it might slip off is worse than anything. */
  readonly conceals: boolean;
  readonly look: LookLayer;
}

/** A track less sure than this may be off by more than a concealing shape has to spare. */
const SURE = 0.5;
const DONE: Readonly<Record<Unknown, string>> = {
  bridge: 'is bridged',
  hold: 'is held',
  fade: 'fades out',
  off: 'is not shown',
};

/**
 * Frames on which it is not known where layers belong, as doubts: what conceals might slip off there, everything else is
 * where it was told to be meanwhile.
 *
 * @param from, to  frames, both included
 */
export function rideDoubts(
  layers: readonly DoubtedLayer[],
  from: number,
  to: number,
  motions: Readonly<Record<string, Motion>>,
  accepted: readonly AcceptedDoubt[] = [],
): Doubt[] {
  return layers.flatMap(({ id, name, conceals, look }) => {
    const { ride, frame: own, unknown, middle } = look;
    if (staysInFrame(ride)) return [];
    const first = Math.max(from, look.from);
    const last = Math.min(to, look.to);
    const unsure = new Map<number, number>();
    for (let f = first; f <= last; f++) {
      const { confidence } = carry(ride, { own, frame: f, unknown, middle, motions });
      if (confidence < (conceals ? SURE : Number.MIN_VALUE)) unsure.set(f, 1 - confidence);
    }
    const badness = (f: number) => unsure.get(f)!;
    return stretchesOf(
      [...unsure.keys()],
      { spot: id, reason: conceals ? 'may-slip' : 'ride-unknown' },
      badness,
      (worst) => (conceals ? 0.6 + 0.4 * badness(worst) : 0.4),
      (worst, a, b) => {
        const why = badness(worst) === 1 ? 'is not known there' : 'is not sure there';
        const what = conceals ? 'may slip off' : DONE[look.unknown];
        return `"${name}" ${what} on ${spanWords(a, b)}: what it rides on ${why}.`;
      },
      accepted,
    );
  });
}
