import type { Role } from '@lurn/core/solve';
import type { Allow, Join, SpotSettings } from '@lurn/core/track';
import { Flag, Frame, Id, IdOrEmpty, ListOf, OneOf, OrNull, WholePair, Within } from '../../checks.js';
import { CHOICES, LIMITS } from '../../limits.js';
import { TrackerBase } from '../base.js';
import type { TrackerRules } from '../tracker-rules.js';

class SpotJoin implements Join {
  @Frame()
  readonly frame!: number;
  @Within([-1e5, 1e5])
  readonly dx!: number;
  @Within([-1e5, 1e5])
  readonly dy!: number;
  @OrNull(Id())
  readonly companion!: string | null;
}

/** A tracked feature. */
export class Spot extends TrackerBase {
  @OneOf(['spot'])
  readonly kind!: 'spot';
  /** Half-sizes in pixels. */
  @WholePair(LIMITS.patch)
  readonly patch!: readonly [number, number];
  @WholePair(LIMITS.reach)
  readonly reach!: readonly [number, number];
  @OneOf(CHOICES.allow)
  readonly allow!: Allow;
  /** Where the path carries on with another feature, in order of frames. */
  @ListOf(() => SpotJoin, LIMITS.joins)
  readonly joins!: readonly Join[];
  /** What the spot is asked about: position, rotation and scale (`turn`), or both. */
  @OneOf(CHOICES.role)
  readonly role!: Role;
  /** False leaves the spot out of the solve. */
  @Flag()
  readonly used!: boolean;
}

/** A doubt that the editor has looked at and found to be fine. */
export class Accepted {
  /** The spot's id; empty for a doubt about the picture as a whole. */
  @IdOrEmpty()
  readonly spot!: string;
  @OneOf(CHOICES.doubt)
  readonly reason!: (typeof CHOICES.doubt)[number];
  @Frame()
  readonly from!: number;
  @Frame()
  readonly to!: number;
}

/** What a new spot does until told otherwise. */
export const NEW_SPOT = {
  kind: 'spot',
  eye: { channel: 'luma', soften: 0, detail: 0, localContrast: 0 },
  allow: 'similarity',
  refresh: 'auto',
  lowMatch: 'coast',
  joins: [],
  role: 'both',
  used: true,
} as const satisfies Partial<Spot>;

/** How the tracker follows a spot. */
export function settingsOf(spot: Spot): SpotSettings {
  const { patch, reach, eye, allow, refresh, lowMatch, minConfidence } = spot;
  return { patch, reach, eye, allow, refresh, lowMatch, minConfidence };
}

export const SPOT_RULES: TrackerRules<'spot', Spot> = {
  ownMover: false,
  fault: () => null,
  fitted: (spot) => spot,
  toTrack: (spot, track) => {
    const { id, name, mover, joins } = spot;
    return { id, name, mover, joins, settings: settingsOf(spot), track };
  },
  place: (_spot, track) => track,
  ride: (_spot, track) => ({ on: 'spot', track }),
};
