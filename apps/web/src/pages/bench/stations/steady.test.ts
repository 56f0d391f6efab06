import type { Plan } from '@lurn/core/plan';
import { shotDocument } from '../../../state/shot';
import { openBench } from '../../../testing/open-bench';
import { steady } from './steady';

jest.mock('../panels/SteadyPanel', () => ({ SteadyPanel: () => null }));

const told = (plan: object | null) =>
  steady.progress({
    document: shotDocument(),
    clip: {},
    steady: plan as Plan | null,
  } as Parameters<typeof steady.progress>[0]);
const measured = { measure: { before: 7.14, after: 0.082 }, of: [], bend: null, perspective: null };

beforeEach(() => openBench());

it('tells what is left of the shake, of a camera that turned as well', () => {
  expect(told(null)).toEqual({ done: false, text: 'Still' });
  const similar = { ...measured, motion: { model: 'similarity' } };
  const leant = { ...measured, motion: { model: 'homography' }, perspective: { with: 0.1, without: 0.9 } };
  for (const plan of [similar, leant])
    expect(told(plan)).toEqual({ done: true, text: 'Still, 0.082 left of 7.14\u00a0px' });
});

it('of a surface that was drawn tells only that it is held: it is met as it was tracked', () => {
  expect(told({ ...measured, motion: { model: 'homography' } }).text).toBe('Still, the surface held');
});
