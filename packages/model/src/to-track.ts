import type { ToTrack, Track } from '@lurn/core/track';
import type { ShotState } from './document.js';
import { measuredOf } from './measured-of.js';
import { rulesOf, type Tracker, type TrackerOf } from './trackers/index.js';

/** Trackers of a document as core follows them. */

type Kind = Tracker['kind'];

/** A tracker as its kind follows it, with what is known of it so far. */
export function toTrack<K extends Kind>(kind: K, tracker: TrackerOf<K>, state: ShotState): ToTrack<K> {
  const place = (id: string, corner?: number) => placeOf(state, id, corner);
  return rulesOf<K>({ kind }).toTrack(tracker, measuredOf(state, kind, tracker.id), place);
}

/** Where a spot, or a corner of a flat surface, was; null of what is not there any more, and of what has no such place. */
export function placeOf(state: ShotState, id: string, corner?: number): Track | null {
  const tracker = state.document.trackers.find((t) => t.id === id);
  return tracker ? rulesOf(tracker).place(tracker, measuredOf(state, tracker.kind, id), corner) : null;
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
