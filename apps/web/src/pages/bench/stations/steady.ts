import { moverName } from '@lurn/model';
import { pixels, plural } from '../../../lib/format';
import { isMeasured } from '../../../lib/measured';
import { GOALS } from '../../../lib/words';
import { SteadyPanel } from '../panels/SteadyPanel';
import type { Station } from './station';

export const steady: Station = {
  id: 'steady',
  name: 'Steady',
  Panel: SteadyPanel,
  progress: ({ document, clip, steady: plan }) => {
    const { goal, areas, held } = document;
    const name = goal.keys.length > 0 ? plural(goal.keys.length, 'keyframe') : GOALS[goal.goal];
    if (!plan && clip.made?.scene && areas.length > 0)
      return { done: false, text: 'The areas leave nothing to hold' };
    if (!plan) return { done: false, text: name };
    // What was drawn is met as it was tracked: there is nothing left that could be told in pixels.
    if (plan.bend) return { done: true, text: `${moverName(document, held ?? '')} laid flat` };
    if (plan.motion.model === 'homography' && plan.of.length === 0 && !plan.perspective)
      return { done: true, text: `${name}, ${moverName(document, held ?? '') || 'the surface'} held` };
    if (!isMeasured(plan)) {
      const spots = plan.of.length === 1 ? 'one spot' : 'two spots';
      return { done: true, text: `${name}, by ${spots}: what is left is not measured` };
    }
    const left = pixels(plan.measure.after).replace(' px', '');
    return {
      done: true,
      text: `${name}, ${left} left of ${pixels(plan.measure.before).replace(' ', '\u00a0')}`,
    };
  },
};
