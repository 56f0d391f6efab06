import { Flag, Frame, Id, OneOf, Text, Within } from '../../checks.js';
import { LIMITS } from '../../limits.js';
import type { MatteRules } from './matte-rules.js';

/** Keeps in front what was not there on a frame on which nothing was in the way. */
export class PassingMatte {
  @OneOf(['passing'])
  readonly kind!: 'passing';
  @Id()
  readonly id!: string;
  @Text(LIMITS.nameLength)
  readonly name!: string;
  /** On which nothing is in the way. */
  @Frame()
  readonly frame!: number;
  /** From which difference on it is in front, and over how much more. */
  @Within([0, 1])
  readonly reach!: number;
  @Within([0, 1])
  readonly soften!: number;
  @Flag()
  readonly outside!: boolean;
}

export const PASSING_MATTE: MatteRules<PassingMatte> = {
  frame: ({ frame }) => frame,
  look: ({ frame, reach, soften, outside }) => ({ kind: 'difference', frame, reach, soften, outside }),
};
