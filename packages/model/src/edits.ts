import type { AcceptedDoubt, Amounts, GoalKey, GoalSettings, Join, Track } from '@lurn/core';
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

/** Takes doubts off the list: the editor has looked at them and found them to be fine. */
export function acceptDoubts(state: ShotState, doubts: readonly AcceptedDoubt[]): ShotState {
  const { accepted } = state.document;
  const fresh = doubts.map(({ spot, reason, from, to }) => ({ spot, reason, from, to }));
  return changeDocument(state, { accepted: [...accepted, ...fresh].slice(-LIMITS.accepted) });
}

/** Puts a join in a spot's list, in place of one on the same frame. */
export function setJoin(state: ShotState, id: string, join: Join): ShotState {
  const spot = state.document.spots.find((s) => s.id === id);
  if (!spot) return state;
  const joins = [...spot.joins.filter((j) => j.frame !== join.frame), join].sort((a, b) => a.frame - b.frame);
  return changeSpot(state, id, { joins });
}

export function removeJoin(state: ShotState, id: string, frame: number): ShotState {
  const spot = state.document.spots.find((s) => s.id === id);
  return spot ? changeSpot(state, id, { joins: spot.joins.filter((j) => j.frame !== frame) }) : state;
}

export function changeGoal(state: ShotState, change: Partial<GoalSettings>): ShotState {
  return changeDocument(state, { goal: { ...state.document.goal, ...change } });
}

/** Puts a keyframe in place of one on the same frame. */
export function setGoalKey(state: ShotState, key: GoalKey): ShotState {
  const others = state.document.goal.keys.filter((k) => k.frame !== key.frame);
  return changeGoal(state, { keys: [...others, key].sort((a, b) => a.frame - b.frame) });
}

/** Without its last keyframe the shot goes on with that one's goal and amounts throughout. */
export function removeGoalKey(state: ShotState, frame: number): ShotState {
  const { goal } = state.document;
  const gone = goal.keys.find((k) => k.frame === frame);
  const keys = goal.keys.filter((k) => k.frame !== frame);
  if (!gone) return state;
  return changeGoal(state, keys.length > 0 ? { keys } : { keys, goal: gone.goal, amounts: gone.amounts });
}

/** Moves a keyframe; one that stands there already gives way. */
export function moveGoalKey(state: ShotState, from: number, to: number): ShotState {
  const key = state.document.goal.keys.find((k) => k.frame === from);
  if (!key || from === to) return state;
  const others = state.document.goal.keys.filter((k) => k.frame !== from && k.frame !== to);
  return changeGoal(state, { keys: [...others, { ...key, frame: to }].sort((a, b) => a.frame - b.frame) });
}

/**
 * Sets goal or amounts as they are felt on a frame: throughout while nothing is keyed; else on the frame's keyframe,
 * which is made if need be.
 */
export function setAt(
  state: ShotState,
  frame: number,
  now: { readonly goal: GoalSettings['goal']; readonly amounts: Amounts },
): ShotState {
  const { keys } = state.document.goal;
  if (keys.length === 0) return changeGoal(state, now);
  const here = keys.find((k) => k.frame === frame);
  return setGoalKey(state, { frame, easing: here?.easing ?? 'smooth', ...now });
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
