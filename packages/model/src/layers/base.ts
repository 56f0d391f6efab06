import type { AreaKey, Blend, Easing, Unknown } from '@lurn/core';
import {
  Colour,
  Flag,
  Frame,
  Id,
  IdOrEmpty,
  ListOf,
  ListOfKinds,
  Of,
  OneOf,
  Optional,
  OrNull,
  Text,
  Within,
} from '../checks.js';
import { DrawnKey } from '../area.js';
import { CHOICES, LIMITS } from '../limits.js';

/** What a layer or a matte rides on. */
export class Rides {
  @OneOf(CHOICES.rides)
  readonly on!: 'frame' | 'spot' | 'mover' | 'surface' | 'soft';
  /** The id of the spot, mover or surface; empty for the frame. */
  @IdOrEmpty()
  readonly id!: string;
  /** Of a mover: turns with it, and grows with it. */
  @Flag()
  readonly rotation!: boolean;
  @Flag()
  readonly scale!: boolean;
  /** Of a soft surface that is laid to a shape of its own: told in that picture, not in that of a frame. */
  @Optional()
  @Flag()
  readonly laid?: boolean;
}

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

/** A closed shape, keyed over time, in places of one frame whatever frames its keys are on. */
export class LayerOutline {
  @Flag()
  readonly smooth!: boolean;
  @ListOf(() => DrawnKey, LIMITS.areaKeys)
  readonly keys!: readonly AreaKey[];
  /** Pixels that it is made larger by. */
  @Within(LIMITS.grow)
  readonly grow!: number;
  /** Pixels over which its edge fades. */
  @Within(LIMITS.fade)
  readonly soften!: number;
}

/** Limits a layer to a drawn shape, or keeps what is in it in front. */
export class AreaMatte {
  @OneOf(['area'])
  readonly kind!: 'area';
  @Id()
  readonly id!: string;
  @Text(LIMITS.nameLength)
  readonly name!: string;
  /** The frame in whose places its shape is told. */
  @Frame()
  readonly frame!: number;
  @Of(() => Rides)
  readonly rides!: Rides;
  @Of(() => LayerOutline)
  readonly outline!: LayerOutline;
  /** True: the layer is shown beyond it, so that what is in it stays in front. */
  @Flag()
  readonly outside!: boolean;
}

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

export const MATTES = { area: AreaMatte, colour: ColourMatte, passing: PassingMatte } as const;
export type LayerMatte = AreaMatte | ColourMatte | PassingMatte;

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
