import { leaveOutOddest, nextWorstFrame, setGoal, toggleGoalKey } from '../../../state/aims';
import type { Action } from './action';

/** Goal, keyframes, and what stands in the way of a steady picture. */
export function aimingActions(): Action[] {
  return [
    {
      id: 'still',
      group: 'Steady',
      label: 'Still',
      keys: 'shift+1',
      shown: 'Shift 1',
      run: () => setGoal('still'),
    },
    {
      id: 'calm',
      group: 'Steady',
      label: 'Calm',
      keys: 'shift+2',
      shown: 'Shift 2',
      run: () => setGoal('calm'),
    },
    {
      id: 'lock',
      group: 'Steady',
      label: 'Lock',
      keys: 'shift+3',
      shown: 'Shift 3',
      run: () => setGoal('lock'),
    },
    {
      id: 'goal-key',
      group: 'Steady',
      label: 'Keyframe of goal and amounts here, or away',
      keys: 'shift+w',
      shown: 'Shift W',
      run: toggleGoalKey,
    },
    {
      id: 'leave-out',
      group: 'Steady',
      label: 'Leave the oddest spot out',
      keys: 'shift+u',
      shown: 'Shift U',
      run: leaveOutOddest,
    },
    {
      id: 'worst',
      group: 'Steady',
      label: 'The frame that needs most zoom, then the next worst',
      keys: 'shift+e',
      shown: 'Shift E',
      run: nextWorstFrame,
    },
  ];
}
