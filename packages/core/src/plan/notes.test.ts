import { PLAIN_GOAL } from '../testing/goal.js';
import { asSpots, shakes, trackOf } from '../testing/motions.js';
import { notesOn } from './notes.js';
import type { Plan } from './plan.js';
import { solveMotion } from '../solve/solve-motion.js';

const truth = shakes(30, 4);
const planOf = (names: readonly string[], ...tracks: ReturnType<typeof trackOf>[]) => {
  const of = asSpots(tracks, { names });
  return { of, motion: solveMotion({ frames: 30, ref: 0, spots: of })! };
};

describe('notes on a plan', () => {
  it('has nothing to say where all that was asked is done', () => {
    const plan = planOf(['gable', 'door'], trackOf(truth, 300, 200), trackOf(truth, 900, 500));
    expect(notesOn(plan, PLAIN_GOAL, 0, 29)).toEqual([]);
  });

  it('says that one spot tells no rotation, unless none is wanted', () => {
    const plan = planOf(['gable'], trackOf(truth, 300, 200));
    expect(notesOn(plan, PLAIN_GOAL, 0, 29)).toEqual([
      expect.stringMatching(/^Rotation and scale need a second spot/),
    ]);
    const amounts = { ...PLAIN_GOAL.amounts, rotation: 0, scale: 0 };
    expect(notesOn(plan, { ...PLAIN_GOAL, amounts }, 0, 29)).toEqual([]);
    const key = { frame: 0, goal: 'still' as const, amounts: PLAIN_GOAL.amounts, easing: 'hold' as const };
    expect(notesOn(plan, { amounts, keys: [key] }, 0, 29)).toHaveLength(1);
  });

  it('names spots that never meet the others, and counts the frames of the range that nothing tells of', () => {
    const plan = planOf(
      ['gable', 'door', 'mast'],
      trackOf(truth, 300, 200, (f) => f < 20),
      trackOf(truth, 700, 300, (f) => f < 20),
      trackOf(truth, 900, 500, (f) => f > 24),
    );
    expect(notesOn(plan, PLAIN_GOAL, 0, 29)).toEqual([
      'mast: never seen together with the other spots, so not used.',
      '10 frames of the range without any sample: the motion is carried on there.',
    ]);
    expect(notesOn(plan, PLAIN_GOAL, 19, 20)[1]).toMatch(/^1 frame of the range/);
    expect(notesOn(plan, PLAIN_GOAL, 5, 15)).toHaveLength(1);
  });

  it('says so when more is left than there was', () => {
    const plan = planOf(['gable', 'door'], trackOf(truth, 300, 200), trackOf(truth, 900, 500));
    const shake = (before: number, after: number) => ({
      ...plan,
      measure: { before, after } as Plan['measure'],
    });
    expect(notesOn(shake(4.93, 6.6), PLAIN_GOAL, 0, 29)).toEqual([
      expect.stringMatching(/^More is left \(6\.60 px\) than the source shook \(4\.93 px\)/),
    ]);
    expect(notesOn(shake(4.93, 0.1), PLAIN_GOAL, 0, 29)).toEqual([]);
  });
});
