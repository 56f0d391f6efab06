import type { Motion } from '../solve/motion.js';
import { spanWords, stretchesOf, type AcceptedDoubt, type Doubt } from './doubts.js';

/**
 * Frames on which nothing tells where what is held is: it is hidden, out of the picture or not tracked there.
 *
 * @param from, to  frames, both included
 */
export function heldDoubts(
  { support, filled }: Pick<Motion, 'support' | 'filled'>,
  from: number,
  to: number,
  accepted: readonly AcceptedDoubt[] = [],
): Doubt[] {
  const isSeen = (f: number) => support[f] !== 'none' || filled?.[f] === 1;
  const frames: number[] = [];
  for (let f = from; f <= to; f++) if (!isSeen(f)) frames.push(f);
  const before = (f: number) => Array.from({ length: f - from }, (_, k) => from + k).some(isSeen);
  const after = (f: number) => Array.from({ length: to - f }, (_, k) => f + 1 + k).some(isSeen);
  return stretchesOf(
    frames,
    { spot: '', reason: 'held-unseen' },
    () => 1,
    () => 0.7,
    (_, a, b) => {
      const done = before(a) && after(b) ? 'its motion is bridged there' : 'it is taken to stand still in the picture there'; // prettier-ignore
      return `What is held is not seen on ${spanWords(a, b)}, and ${done}. End the range, or mark it there by hand.`;
    },
    accepted,
  );
}
