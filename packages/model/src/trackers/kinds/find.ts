import type { SoftTrack, SurfaceTrack, Track } from '@lurn/core/track';
import { measuredOf, type Known } from '../../measured-of.js';
import type { SoftSurface, Spot, Surface, Tracker, TrackerOf } from '../index.js';

/** Trackers of a document by their kind, and what was measured of them. */

interface Trackers {
  readonly trackers: readonly Tracker[];
}

const lists = new WeakMap<readonly Tracker[], Map<string, readonly Tracker[]>>();

/** A document's trackers of a kind; the same list as long as the trackers are the same. */
export function trackersOf<K extends Tracker['kind']>(
  { trackers }: Trackers,
  kind: K,
): readonly TrackerOf<K>[] {
  let known = lists.get(trackers);
  if (!known) lists.set(trackers, (known = new Map()));
  let list = known.get(kind);
  if (!list) known.set(kind, (list = trackers.filter((t) => t.kind === kind)));
  return list as readonly TrackerOf<K>[];
}

export const spotsOf = (document: Trackers): readonly Spot[] => trackersOf(document, 'spot');

export const surfacesOf = (document: Trackers): readonly Surface[] => trackersOf(document, 'surface');

export const softOf = (document: Trackers): readonly SoftSurface[] => trackersOf(document, 'soft');

export function softById(document: Trackers, id: string): SoftSurface | undefined {
  return softOf(document).find((s) => s.id === id);
}

export function surfaceById(document: Trackers, id: string): Surface | undefined {
  return surfacesOf(document).find((s) => s.id === id);
}

export function spotById(document: Trackers, id: string): Spot | undefined {
  return spotsOf(document).find((s) => s.id === id);
}

export const trackOf = (state: Known, id: string): Track => measuredOf(state, 'spot', id);

export const surfaceTrackOf = (state: Known, id: string): SurfaceTrack => measuredOf(state, 'surface', id);

export const softTrackOf = (state: Known, id: string): SoftTrack => measuredOf(state, 'soft', id);
