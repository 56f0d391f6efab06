import { trackSoftBetween } from '../../soft/soft-between.js';
import { EMPTY_SOFT_TRACK, softAt, withSoftSamples } from '../../soft/soft-track.js';
import { trackSoft } from '../../soft/track-soft.js';
import type { TrackerKind } from '../tracker-kind.js';

/** A soft surface: the vertices of its mesh, found by its texture. */
export const SOFT_KIND: TrackerKind<'soft'> = {
  kind: 'soft',
  empty: EMPTY_SOFT_TRACK,
  at: softAt,
  withSamples: withSoftSamples,
  follow: (source, { things, from, to }, signal) => trackSoft(source, { soft: things, from, to }, signal),
  async between(source, thing, a, b, _others, signal, onProgress) {
    const samples = await trackSoftBetween(source, thing, a, b, signal, onProgress);
    return { samples, unseen: samples.filter((s) => s.state === 'coasted').length };
  },
};
