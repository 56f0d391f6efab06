import { trackBetween } from '../../track/between-pins.js';
import { EMPTY_TRACK, sampleAt, withSamples } from '../../track/track.js';
import { trackSpots } from '../../track/track-spots.js';
import type { TrackerKind } from '../tracker-kind.js';

/** A feature: one point, found by its patch. */
export const SPOT_KIND: TrackerKind<'spot'> = {
  kind: 'spot',
  empty: EMPTY_TRACK,
  at(track, frame) {
    const sample = sampleAt(track, frame);
    return sample && { frame, ...sample };
  },
  withSamples,
  follow: (source, { things, others, from, to }, signal) =>
    trackSpots(source, { spots: things, others, from, to }, signal),
  between: trackBetween,
};
