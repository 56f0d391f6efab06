import type { AreaKey, AreaKind } from '@lurn/core/geometry';
import type { Regroup, RidingArea } from '@lurn/core/solve';
import { Corners, Flag, Frame, Id, ListOf, OneOf, OrNull, Text } from './checks.js';
import { CHOICES, LIMITS } from './limits.js';

/** An area's shape on a frame. */
export class DrawnKey implements AreaKey {
  @Frame()
  readonly frame!: number;
  @Corners(LIMITS.corners)
  readonly shape!: readonly (readonly [number, number])[];
}

/** A drawn closed shape that says what is measured. */
export class DrawnArea implements RidingArea {
  @Id()
  readonly id!: string;
  @Text(LIMITS.nameLength)
  readonly name!: string;
  @OneOf(CHOICES.area)
  readonly kind!: AreaKind;
  @Flag()
  readonly smooth!: boolean;
  /** The id of the mover that it rides on; null where it stays where it was drawn. */
  @OrNull(Id())
  readonly rides!: string | null;
  @ListOf(() => DrawnKey, LIMITS.areaKeys)
  readonly keys!: readonly AreaKey[];
}

/** What the editor says of features: those inside a shape on a frame go with a mover. */
export class DrawnRegroup implements Regroup {
  @Frame()
  readonly frame!: number;
  @Corners(LIMITS.corners)
  readonly shape!: readonly (readonly [number, number])[];
  @Id()
  readonly to!: string;
}

/** What is wrong with an area's keys: where, and what; null where nothing is. */
export function faultOfKeys(keys: readonly AreaKey[], frames: number): [string, string] | null {
  if (keys.length === 0) return ['keys', 'is empty; give a shape on one frame at least'];
  for (const [i, { frame, shape }] of keys.entries()) {
    if (frame >= frames)
      return [`keys[${i}].frame`, `must be a number from 0 to ${frames - 1}, not ${frame}`];
    if (i > 0 && frame <= keys[i - 1].frame) return [`keys[${i}].frame`, 'is not after the key before it'];
    const { length } = keys[0].shape;
    if (shape.length !== length)
      return [`keys[${i}].shape`, `has ${shape.length} corners where the first key has ${length}`];
  }
  return null;
}
