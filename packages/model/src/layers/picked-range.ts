import type { ColourRange } from '@lurn/core/compose';
import { parseColour } from '@lurn/core/picture';
import { Colour, Flag, Within } from '../checks.js';

/** A range of colours, near one that was picked. */
export class PickedRange {
  @Colour()
  readonly colour!: string;
  @Within([0, 2])
  readonly reach!: number;
  @Within([0, 2])
  readonly soften!: number;
  /** True: how bright it is counts alone. */
  @Flag()
  readonly brightness!: boolean;
}

export function rangeOf({ colour, reach, soften, brightness }: PickedRange): ColourRange {
  return { colour: parseColour(colour), reach, soften, brightness };
}

/** A range of colours about one that nobody has picked yet. */
export const NEW_RANGE: PickedRange = { colour: '#808080', reach: 0.15, soften: 0.1, brightness: false };
