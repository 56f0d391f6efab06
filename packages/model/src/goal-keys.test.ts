import { newDocument } from './document.js';
import { setAt, setGoalKey } from './edits.js';

/** How keyframes of the goal go on. */

const CLIP = { width: 64, height: 48, frames: 100 };
const ALL = { x: 1, y: 1, rotation: 1, scale: 1 };

it('after Still it holds until the next key, after Calm it passes over, and what was chosen stays', () => {
  const blank = { document: newDocument(CLIP), measured: {} };
  const keyed = setGoalKey(blank, { frame: 0, goal: 'still', amounts: ALL, easing: 'hold' });
  const easings = (state: typeof blank) => state.document.goal.keys.map((k) => [k.frame, k.easing]);
  const calm = setAt(keyed, 60, { goal: 'calm', amounts: ALL });
  expect(easings(calm)).toEqual([
    [0, 'hold'],
    [60, 'smooth'],
  ]);
  expect(easings(setAt(calm, 90, { goal: 'still', amounts: ALL })).at(-1)).toEqual([90, 'hold']);
  // Told otherwise, it stays so while its goal does.
  const linear = setGoalKey(calm, { frame: 60, goal: 'calm', amounts: ALL, easing: 'linear' });
  const half = setAt(linear, 60, { goal: 'calm', amounts: { ...ALL, x: 0.5 } });
  expect(easings(half).at(-1)).toEqual([60, 'linear']);
  expect(easings(setAt(linear, 60, { goal: 'still', amounts: ALL })).at(-1)).toEqual([60, 'hold']);
});
