import type { Track } from '@lurn/core';
import { DATA_COLOURS, LIMITS, type ShotDocument, type ShotState, type Spot } from './document.js';

/** Edits of a shot: each takes a state and gives a new one that shares all that did not change. */

export function addSpot(state: ShotState, spot: Spot, track: Track): ShotState {
  return {
    document: { ...state.document, spots: [...state.document.spots, spot] },
    tracks: { ...state.tracks, [spot.id]: track },
  };
}

export function changeSpot(state: ShotState, id: string, change: Partial<Omit<Spot, 'id'>>): ShotState {
  const spots = state.document.spots.map((s) => (s.id === id ? { ...s, ...change } : s));
  return { ...state, document: { ...state.document, spots } };
}

export function removeSpots(state: ShotState, ids: readonly string[]): ShotState {
  const gone = new Set(ids);
  return {
    document: { ...state.document, spots: state.document.spots.filter((s) => !gone.has(s.id)) },
    tracks: Object.fromEntries(Object.entries(state.tracks).filter(([id]) => !gone.has(id))),
  };
}

/** Puts tracks in place of spots' old ones; tracks of spots that are not there are left out. */
export function setTracks(state: ShotState, tracks: Readonly<Record<string, Track>>): ShotState {
  const known = state.document.spots.filter((s) => tracks[s.id]);
  if (known.length === 0) return state;
  return {
    ...state,
    tracks: { ...state.tracks, ...Object.fromEntries(known.map((s) => [s.id, tracks[s.id]])) },
  };
}

export function changeDocument(
  state: ShotState,
  change: Partial<Omit<ShotDocument, 'spots' | 'version'>>,
): ShotState {
  return { ...state, document: { ...state.document, ...change } };
}

/** In and out point, kept in order and inside the clip. */
export function setRange(state: ShotState, edge: 'from' | 'to', frame: number): ShotState {
  const { from, to } = state.document.range;
  const range =
    edge === 'from' ? { from: frame, to: Math.max(frame, to) } : { from: Math.min(from, frame), to: frame };
  return changeDocument(state, { range });
}

/** Patch or reach from wished half-sizes: whole pixels within the limits. */
export function clampSize(kind: 'patch' | 'reach', size: readonly [number, number]): [number, number] {
  const [low, high] = LIMITS[kind];
  const clamp = (v: number) => Math.min(high, Math.max(low, Math.round(v)));
  return [clamp(size[0]), clamp(size[1])];
}

/** The first colour that the fewest spots have. */
export function nextColour(document: ShotDocument): number {
  const uses = Array.from(
    { length: DATA_COLOURS },
    (_, c) => document.spots.filter((s) => s.colour === c).length,
  );
  return uses.indexOf(Math.min(...uses));
}

/** A, B, ... Z, A2, B2, ...: the first short name that is free. */
export function nextName(document: ShotDocument): string {
  const taken = new Set(document.spots.map((s) => s.name));
  for (let i = 0; ; i++) {
    const letter = String.fromCharCode(65 + (i % 26));
    const name = i < 26 ? letter : `${letter}${Math.floor(i / 26) + 1}`;
    if (!taken.has(name)) return name;
  }
}
