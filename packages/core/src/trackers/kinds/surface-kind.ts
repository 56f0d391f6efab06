import { trackSurfaceBetween } from '../../surface/surface-between.js';
import { EMPTY_SURFACE_TRACK, surfaceAt, withSurfaceSamples } from '../../surface/surface-track.js';
import { trackSurfaces } from '../../surface/track-surfaces.js';
import type { TrackerKind } from '../tracker-kind.js';

/** A flat surface: the four corners of its base, found by its whole texture. */
export const SURFACE_KIND: TrackerKind<'surface'> = {
  kind: 'surface',
  empty: EMPTY_SURFACE_TRACK,
  at: surfaceAt,
  withSamples: withSurfaceSamples,
  async *follow(source, { things, others, from, to }, signal) {
    // How each block fits is asked for where it is looked at.
    for await (const { fits: _, ...step } of trackSurfaces(
      source,
      { surfaces: things, others, from, to },
      signal,
    ))
      yield step;
  },
  between: trackSurfaceBetween,
};
