import type { KnownSpot, SpotToTrack } from '@lurn/core';
import { settingsOf, spotsOf, trackOf, type Spot } from '@lurn/model';
import { shotState } from './shot';

/** Spots of the shot as the tracker wants them. */

export function toTrack(spot: Spot): SpotToTrack {
  const { id, name, mover, joins } = spot;
  return { id, name, mover, joins, settings: settingsOf(spot), track: trackOf(shotState(), id) };
}

/** The spots that are not tracked now but may tell where a hidden one is. */
export function othersThan(spots: readonly Spot[]): KnownSpot[] {
  const state = shotState();
  return spotsOf(state.document)
    .filter((s) => !spots.includes(s) && state.measured[s.id])
    .map(({ id, mover }) => ({ id, mover, track: trackOf(state, id) }));
}
