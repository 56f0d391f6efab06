import { Flag, IdOrEmpty, OneOf, Optional } from '../checks.js';
import { CHOICES } from '../limits.js';

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

export const ON_FRAME: Rides = { on: 'frame', id: '', rotation: true, scale: true };
