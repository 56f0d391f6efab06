import { CALM_GOAL } from './calm-goal.js';
import type { GoalKind } from './goal-kind.js';
import type { Goal } from './goals.js';
import { LOCK_GOAL } from './lock-goal.js';
import { STILL_GOAL } from './still-goal.js';

const KINDS: Readonly<Record<Goal, GoalKind>> = { still: STILL_GOAL, calm: CALM_GOAL, lock: LOCK_GOAL };

export const goalKind = (goal: Goal): GoalKind => KINDS[goal];
