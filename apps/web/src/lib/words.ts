import type { Amounts, Goal } from '@lurn/core/plan';
import type { MeasuredKind } from '@lurn/core/track';
import type { RenderStatus } from '@lurn/model';
import type { Part } from '../state/bench';

/** The words for goals and components, the same wherever they are shown. */

export const GOALS: Readonly<Record<Goal, string>> = { still: 'Still', calm: 'Calm', lock: 'Lock' };

export const AMOUNTS: readonly (readonly [keyof Amounts, string])[] = [
  ['x', 'Across'],
  ['y', 'Up-down'],
  ['rotation', 'Rotation'],
  ['scale', 'Scale'],
];

/** What one tracker of a kind is called. */
export const TRACKERS: Readonly<Record<MeasuredKind, string>> = {
  spot: 'spot',
  surface: 'flat surface',
  soft: 'soft surface',
};

/** Components of a motion, with the unit they are shown in and what turns them into it. */
export const PARTS: readonly {
  readonly key: Part;
  readonly name: string;
  readonly unit: string;
  readonly times: number;
  readonly decimals: number;
}[] = [
  { key: 'x', name: 'Across', unit: 'px', times: 1, decimals: 2 },
  { key: 'y', name: 'Up-down', unit: 'px', times: 1, decimals: 2 },
  { key: 'rotation', name: 'Rotation', unit: '°', times: 180 / Math.PI, decimals: 3 },
  { key: 'logScale', name: 'Scale', unit: '%', times: 100, decimals: 2 },
];

/** How a surface's looks are taken as it is followed. */
export const LOOKS = {
  auto: 'anew when they change',
  never: 'as on its own frame',
  always: 'anew all the time',
} as const;

export const RENDER_WORDS: Readonly<Record<RenderStatus, string>> = {
  waiting: 'waits its turn',
  running: 'rendering',
  done: 'done',
  failed: 'failed',
  stopped: 'stopped, what is done is kept',
};
