import type { Quad } from '../../../geometry/homography.js';
import { surfaceAt, type SurfaceTrack } from '../../../surface/surface-track.js';
import { bySamples } from '../by-samples.js';
import type { RideKind } from '../ride-kind.js';

/** A flat surface, with its perspective. */
export interface SurfaceRide {
  readonly on: 'surface';
  readonly track: SurfaceTrack;
  readonly base: Quad;
}

export const SURFACE_RIDE: RideKind<SurfaceRide> = {
  carry: ({ track }, how) => bySamples(track, how, (f) => surfaceAt(track, f)?.corners ?? null),
};
