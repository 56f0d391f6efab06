import type { Blend, Unknown } from '@lurn/core/compose';
import type { Easing } from '@lurn/core/plan';
import { Flag, Frame, Id, ListOf, ListOfKinds, Of, OneOf, OrNull, Text, Within } from '../checks.js';
import { CHOICES, LIMITS } from '../limits.js';
import { MATTES, type LayerMatte } from './mattes/index.js';
import { Rides } from './rides.js';

/** How opaque a layer is from a frame on, and by how many pixels of its own frame it is moved. */
export class LayerKeyframe {
  @Frame()
  readonly frame!: number;
  @Within([0, 1])
  readonly opacity!: number;
  @Within(LIMITS.place)
  readonly x!: number;
  @Within(LIMITS.place)
  readonly y!: number;
  @OneOf(CHOICES.easing)
  readonly easing!: Easing;
}

class Span {
  @Frame()
  readonly from!: number;
  @Frame()
  readonly to!: number;
}

/** What every layer has, whatever it shows. */
export abstract class LayerBase {
  @Id()
  readonly id!: string;
  @Text(LIMITS.nameLength)
  readonly name!: string;
  /** The frame that it was made on: its places are told there. */
  @Frame()
  readonly frame!: number;
  @Of(() => Rides)
  readonly rides!: Rides;
  /** What is done on frames on which it is not known where that is. */
  @OneOf(CHOICES.unknown)
  readonly unknown!: Unknown;
  @Flag()
  readonly shown!: boolean;
  /** First and last frame on which it is seen; null: on all. */
  @OrNull(Of(() => Span))
  readonly range!: Span | null;
  @Within([0, 1])
  readonly opacity!: number;
  /** In the order of their frames; with one at least, they say how opaque it is. */
  @ListOf(() => LayerKeyframe, LIMITS.keys)
  readonly keys!: readonly LayerKeyframe[];
  @OneOf(CHOICES.blend)
  readonly blend!: Blend;
  /** Standard deviation of its grain, in grey levels of 255. */
  @Within(LIMITS.grain)
  readonly grain!: number;
  @ListOfKinds(() => MATTES, LIMITS.mattes)
  readonly mattes!: readonly LayerMatte[];
}
