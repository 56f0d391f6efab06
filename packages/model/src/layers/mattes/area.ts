import { Flag, Frame, Id, Of, OneOf, Text } from '../../checks.js';
import { LIMITS } from '../../limits.js';
import { LayerOutline } from '../layer-outline.js';
import { Rides } from '../rides.js';
import type { MatteRules } from './matte-rules.js';

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

export const AREA_MATTE: MatteRules<AreaMatte> = {
  frame: ({ frame }) => frame,
  drawn: ({ outline, rides }) => ({ outline, rides }),
  look: ({ outline, frame, rides, outside }, rideOf) => ({
    kind: 'outline',
    ...{ outline, frame, ride: rideOf(rides), outside },
  }),
};
