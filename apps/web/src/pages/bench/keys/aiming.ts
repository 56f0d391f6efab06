import { leaveOutOddest, nextWorstFrame, setGoal, toggleGoalKey } from '../../../state/aims';
import type { Action } from './action';

/** Goal, keyframes, and what stands in the way of a steady picture. */
export function aimingActions(): Action[] {
  return [
    {
      id: 'still',
      group: 'Steady',
      label: 'Still',
      run: () => setGoal('still'),
    },
    {
      id: 'calm',
      group: 'Steady',
      label: 'Calm',
      run: () => setGoal('calm'),
    },
    {
      id: 'lock',
      group: 'Steady',
      label: 'Lock',
      run: () => setGoal('lock'),
    },
    {
      id: 'goal-key',
      group: 'Steady',
      label: 'Keyframe of goal and amounts here, or away',
      run: toggleGoalKey,
    },
    {
      id: 'leave-out',
      group: 'Steady',
      label: 'Leave the oddest spot out',
      run: leaveOutOddest,
    },
    {
      id: 'worst',
      group: 'Steady',
      label: 'The frame that needs most zoom, then the next worst',
      run: nextWorstFrame,
    },
  ];
}
