import {
  EMPTY_TRACK,
  quadOn,
  surfaceSamples,
  withSamples,
  type JoinedTrack,
  type SoftToTrack,
  type SpotToTrack,
  type SurfaceToTrack,
  type SurfaceTrack,
  type ToTrack,
  type Track,
} from '@lurn/core';
import type { ShotState } from './document.js';
import { softTrackOf, surfaceTrackOf, trackOf } from './measured-of.js';
import {
  meshOf,
  quadOf,
  settingsOf,
  softSettingsOf,
  surfaceSettingsOf,
  type SoftSurface,
  type Spot,
  type Surface,
  type Tracker,
  type TrackerOf,
} from './trackers/index.js';

/** Trackers of a document as core follows them. */

/** A spot as its kind follows it. */
function spotToTrack(spot: Spot, state: ShotState): SpotToTrack {
  const { id, name, mover, joins } = spot;
  return { id, name, mover, joins, settings: settingsOf(spot), track: trackOf(state, id) };
}

/** A surface as its kind follows it. */
export function surfaceToTrack(surface: Surface, track: SurfaceTrack): SurfaceToTrack {
  const { id, name, frame, base, shapes, behind } = surface;
  return { id, name, frame, base: quadOf(base), shapes, behind, settings: surfaceSettingsOf(surface), track };
}

/** A soft surface as its kind follows it. */
export function softToTrack(soft: SoftSurface, state: ShotState): SoftToTrack {
  const { id, name, frame, shapes } = soft;
  return {
    ...{ id, name, frame, shapes, vertices: meshOf(soft).vertices, settings: softSettingsOf(soft) },
    track: softTrackOf(state, id),
    joined: joinedOf(soft, state),
  };
}

/** What has joined a soft surface, as far as it is still there. */
function joinedOf({ joined = [] }: SoftSurface, state: ShotState): JoinedTrack[] {
  return joined.flatMap(({ tracker: id, corner, x, y }) => {
    const tracker = state.document.trackers.find((t) => t.id === id);
    if (tracker?.kind === 'spot') return [{ at: { x, y }, track: trackOf(state, id) }];
    if (tracker?.kind === 'surface' && corner !== undefined)
      return [{ at: { x, y }, track: cornerTrack(tracker, state, corner) }];
    return [];
  });
}

/** Where a corner of a flat surface's quad was, as a track. */
export function cornerTrack({ id, base, quad }: Surface, state: ShotState, corner: number): Track {
  const track = surfaceTrackOf(state, id);
  const samples = [...surfaceSamples(track)].flatMap(({ frame, confidence, state: how }) => {
    const at = quadOn(quadOf(base), quadOf(quad), track, frame)?.[corner];
    return at ? [{ frame, x: at.x, y: at.y, confidence, state: how }] : [];
  });
  return withSamples(EMPTY_TRACK, samples);
}

type Kind = Tracker['kind'];

const TO_TRACK: { readonly [K in Kind]: (tracker: TrackerOf<K>, state: ShotState) => ToTrack<K> } = {
  spot: spotToTrack,
  surface: (surface, state) => surfaceToTrack(surface, surfaceTrackOf(state, surface.id)),
  soft: softToTrack,
};

/** A tracker as its kind follows it, with what is known of it so far. */
export function toTrack<K extends Kind>(kind: K, tracker: TrackerOf<K>, state: ShotState): ToTrack<K> {
  return TO_TRACK[kind](tracker, state);
}

/** The other trackers of a kind: they may hide some, or predict where they are. */
export function othersThan<K extends Kind>(
  kind: K,
  trackers: readonly TrackerOf<K>[],
  state: ShotState,
): ToTrack<K>[] {
  const own = new Set(trackers.map((t) => t.id));
  return state.document.trackers
    .filter((t): t is TrackerOf<K> => t.kind === kind && !own.has(t.id))
    .map((t) => toTrack(kind, t, state));
}
