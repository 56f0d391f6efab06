import { Flag, Id, Of, OneOf, Text } from '../../checks.js';
import { LIMITS } from '../../limits.js';
import { PickedRange, rangeOf } from '../picked-range.js';
import type { MatteRules } from './matte-rules.js';

/** Limits a layer to colours of the picture under it, or keeps those in front. */
export class ColourMatte {
  @OneOf(['colour'])
  readonly kind!: 'colour';
  @Id()
  readonly id!: string;
  @Text(LIMITS.nameLength)
  readonly name!: string;
  @Of(() => PickedRange)
  readonly range!: PickedRange;
  @Flag()
  readonly outside!: boolean;
}

export const COLOUR_MATTE: MatteRules<ColourMatte> = {
  look: ({ range, outside }) => ({ kind: 'key', range: rangeOf(range), outside }),
};
