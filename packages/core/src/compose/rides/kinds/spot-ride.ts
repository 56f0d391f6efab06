import { sampleAt, type Track } from '../../../track/track.js';
import { bySamples } from '../by-samples.js';
import type { RideKind } from '../ride-kind.js';

/** A spot's place. */
export interface SpotRide {
  readonly on: 'spot';
  readonly track: Track;
}

export const SPOT_RIDE: RideKind<SpotRide> = {
  carry: ({ track }, how) =>
    bySamples(track, how, (f) => {
      const s = sampleAt(track, f);
      return s && [s];
    }),
};
