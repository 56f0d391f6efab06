import type { ComponentType } from 'react';
import type { Goal } from '@lurn/core/plan';
import { CalmSettings, LockSettings, StillSettings } from './GoalSettings';

/** How a goal is told of, and set. */
interface GoalView {
  readonly meaning: string;
  /** What its amounts are called. */
  readonly amounts: string;
  readonly Settings: ComponentType;
}

export const GOAL_VIEWS: Readonly<Record<Goal, GoalView>> = {
  still: {
    meaning: 'What is held stands as on a tripod.',
    amounts: 'Take out',
    Settings: StillSettings,
  },
  calm: {
    meaning: 'The shake goes, the moves that were meant stay.',
    amounts: 'Take out',
    Settings: CalmSettings,
  },
  lock: {
    meaning: 'The subject stays in its place, and the world moves round it.',
    amounts: 'How firmly it is held',
    Settings: LockSettings,
  },
};

export const GOAL_MEANINGS = Object.fromEntries(
  Object.entries(GOAL_VIEWS).map(([goal, { meaning }]) => [goal, meaning]),
) as Record<Goal, string>;
