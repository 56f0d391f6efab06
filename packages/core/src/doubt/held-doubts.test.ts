import type { Support } from '../solve/motion.js';
import { shakes, trackOf } from '../testing/motions.js';
import { solveMotion } from '../solve/solve-motion.js';
import { heldDoubts } from './held-doubts.js';

const truth = shakes(40, 4);

describe('doubts of what is held', () => {
  it('are where no spot is seen, and say what is done there', () => {
    const seen = (f: number) => (f < 12 || f > 20) && f < 34;
    const spots = [
      { id: 'a', track: trackOf(truth, 300, 200, seen) },
      { id: 'b', track: trackOf(truth, 500, 240, (f) => seen(f) && f !== 5) },
    ];
    const doubts = heldDoubts(solveMotion({ frames: 40, ref: 0, spots })!, 0, 39);
    expect(doubts.map(({ from, to, reason }) => [from, to, reason])).toEqual([
      [12, 20, 'held-unseen'],
      [34, 39, 'held-unseen'],
    ]);
    expect(doubts[0].sentence).toMatch(/not seen on frames 12 to 20, and its motion is bridged/);
    expect(doubts[1].sentence).toMatch(/frames 34 to 39, and it is taken to stand still/);
    // Of a range in which it is seen throughout, none; accepted, none.
    expect(heldDoubts(solveMotion({ frames: 40, ref: 0, spots })!, 21, 33)).toEqual([]);
    expect(heldDoubts(solveMotion({ frames: 40, ref: 0, spots })!, 0, 39, doubts)).toEqual([]);
  });

  it('are none where the whole picture tells instead', () => {
    const support: Support[] = ['full', 'none', 'none'];
    expect(heldDoubts({ support, filled: Uint8Array.of(0, 1, 1) }, 0, 2)).toEqual([]);
    expect(heldDoubts({ support }, 0, 2)).toHaveLength(1);
  });
});
