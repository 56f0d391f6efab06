import { LurnError } from '@lurn/core';
import { goalKind } from '@lurn/core/plan';
import type { AcceptedDoubt } from '@lurn/core/doubt';
import type { AreaKey, AreaKind } from '@lurn/core/geometry';
import type { Amounts, GoalKey, GoalSettings } from '@lurn/core/plan';
import type { Regroup } from '@lurn/core/solve';
import type { Join, Measured } from '@lurn/core/track';
import { moverName, type Delivery, type Mover, type ShotDocument, type ShotState } from './document.js';
import type { DrawnArea } from './area.js';
import { LIMITS } from './limits.js';
import {
  DATA_COLOURS,
  rulesOf,
  type AnySurface,
  type Spot,
  type Surface,
  type Tracker,
} from './trackers/index.js';
import { spotsOf } from './trackers/kinds/find.js';

/** Edits of a shot: each takes a state and gives a new one that shares all that did not change. */

export function addTracker(state: ShotState, tracker: Tracker, measured: Measured): ShotState {
  return {
    document: { ...state.document, trackers: [...state.document.trackers, tracker] },
    measured: { ...state.measured, [tracker.id]: measured },
  };
}

export function changeSpot(
  state: ShotState,
  id: string,
  change: Partial<Omit<Spot, 'id' | 'kind'>>,
): ShotState {
  const trackers = state.document.trackers.map((t) => (t.id === id ? { ...t, ...change } : t));
  return { ...state, document: { ...state.document, trackers } };
}

/** Adds a surface, flat or soft, which is a mover of its own, called as it is. */
export function addSurface(
  state: ShotState,
  surface: AnySurface extends infer T ? (T extends AnySurface ? Omit<T, 'mover'> : never) : never,
  measured: Measured,
): ShotState {
  const { movers, trackers } = state.document;
  const mover = freeMoverId(movers.map((m) => m.id));
  return {
    measured: { ...state.measured, [surface.id]: measured },
    document: {
      ...state.document,
      movers: [...movers, { id: mover, name: surface.name }],
      trackers: [...trackers, { ...surface, mover }],
    },
  };
}

/**
 * Changes a surface, flat or soft; with its name its mover's goes, as long as they were the same.
 *
 * @param measured  what is known of it then, where that changes too
 */
export function changeSurface<T extends AnySurface = Surface>(
  state: ShotState,
  id: string,
  change: Partial<Omit<T, 'id' | 'kind' | 'mover'>>,
  measured?: Measured,
): ShotState {
  const { name } = change as { readonly name?: string };
  const before = state.document.trackers.find((t) => t.id === id);
  const trackers = state.document.trackers.map((t) => (t.id === id ? { ...t, ...change } : t));
  const movers = state.document.movers.map((m) =>
    name !== undefined && m.id === before?.mover && m.name === before.name ? { ...m, name } : m,
  );
  return {
    document: { ...state.document, trackers, movers },
    measured: measured ? { ...state.measured, [id]: measured } : state.measured,
  };
}

/** "Surface 1", "Surface 2", ...: the first name that is free. */
export function nextSurfaceName({ trackers }: ShotDocument): string {
  return numberedName(trackers, 'Surface');
}

/** "Cloth 1", "Cloth 2", ...: the first name that is free. */
export function nextSoftName({ trackers }: ShotDocument): string {
  return numberedName(trackers, 'Cloth');
}

function numberedName(trackers: readonly Tracker[], word: string): string {
  for (let n = 1; ; n++) if (!trackers.some((t) => t.name === `${word} ${n}`)) return `${word} ${n}`;
}

export function removeTrackers(state: ShotState, ids: readonly string[]): ShotState {
  const gone = new Set(ids);
  const { trackers, movers, held } = state.document;
  const left = trackers.filter((t) => !gone.has(t.id));
  // A surface's mover goes with it, and is not held any more.
  const lost = new Set(
    trackers
      .filter((t) => gone.has(t.id) && rulesOf(t).ownMover && !left.some((o) => o.mover === t.mover))
      .map((t) => t.mover),
  );
  return {
    document: {
      ...state.document,
      trackers: left,
      movers: lost.size > 0 ? movers.filter((m, i) => i === 0 || !lost.has(m.id)) : movers,
      held: held !== null && lost.has(held) ? null : held,
    },
    measured: Object.fromEntries(Object.entries(state.measured).filter(([id]) => !gone.has(id))),
  };
}

/** Puts measurements in place of trackers' old ones; those of trackers that are not there are left out. */
export function setMeasured(state: ShotState, measured: Readonly<Record<string, Measured>>): ShotState {
  const known = state.document.trackers.filter((t) => measured[t.id]);
  if (known.length === 0) return state;
  return {
    ...state,
    measured: { ...state.measured, ...Object.fromEntries(known.map((t) => [t.id, measured[t.id]])) },
  };
}

/**
 * Puts a spot on the mover of this name, which is made where there is none. Movers that nothing is on any more, and
 * that are not held, go; the first stays.
 */
export function setMover(state: ShotState, id: string, name: string): ShotState {
  const { movers } = state.document;
  const there = movers.find((m) => m.name === name);
  const mover = there ?? { id: freeMoverId(movers.map((m) => m.id)), name };
  const moved = changeSpot(state, id, { mover: mover.id });
  const all = there ? movers : [...movers, mover];
  const { trackers, held } = moved.document;
  const kept = all.filter(
    (m, i) => i === 0 || m.id === held || !isMade(m.id) || trackers.some((t) => t.mover === m.id),
  );
  return { ...moved, document: { ...moved.document, movers: kept } };
}

/** True of a mover that was made for spots; others were found in the picture, and their names stay. */
const isMade = (id: string) => /^mover-\d+$/.test(id);

function freeMoverId(taken: readonly string[]): string {
  for (let n = 1; ; n++) if (!taken.includes(`mover-${n}`)) return `mover-${n}`;
}

/** Movers by what they are called where they have to be told apart: their name, else the names of their spots. */
export function moverLabel(document: ShotDocument, id: string): string {
  const name = moverName(document, id);
  if (name) return name;
  const on = spotsOf(document).filter((s) => s.mover === id);
  return on.length === 0 ? 'nothing yet' : on.map((s) => s.name).join(', ');
}

export function changeDelivery(
  state: ShotState,
  id: string,
  change: Partial<Omit<Delivery, 'id'>>,
): ShotState {
  const deliveries = state.document.deliveries.map((d) => (d.id === id ? { ...d, ...change } : d));
  return { ...state, document: { ...state.document, deliveries } };
}

/** A delivery more, by a name that none has yet. */
export function addDelivery(state: ShotState, delivery: Delivery): ShotState {
  const { deliveries } = state.document;
  let { name } = delivery;
  for (let k = 2; deliveries.some((d) => d.name === name); k++) name = `${delivery.name} ${k}`;
  return changeDocument(state, { deliveries: [...deliveries, { ...delivery, name }] });
}

/** Takes a delivery out; the last one stays. */
export function removeDelivery(state: ShotState, id: string): ShotState {
  const deliveries = state.document.deliveries.filter((d) => d.id !== id);
  return deliveries.length > 0 ? changeDocument(state, { deliveries }) : state;
}

/** The shot as one of its deliveries sees it: that one alone. @throws LurnError `no-delivery` */
export function forDelivery(document: ShotDocument, id: string): ShotDocument {
  const delivery = document.deliveries.find((d) => d.id === id);
  if (!delivery)
    throw new LurnError('no-delivery', 'The shot has no such delivery any more. Choose one of those it has.');
  return { ...document, deliveries: [delivery] };
}

export function changeDocument(
  state: ShotState,
  change: Partial<Omit<ShotDocument, 'trackers' | 'version'>>,
): ShotState {
  return { ...state, document: { ...state.document, ...change } };
}

/** A cut by hand comes on a frame, or goes; there is none before the first. */
export function toggleCut(state: ShotState, frame: number): ShotState {
  const { cuts } = state.document;
  if (cuts.includes(frame)) return changeDocument(state, { cuts: cuts.filter((c) => c !== frame) });
  return frame > 0 ? addCuts(state, [frame]) : state;
}

export function addCuts(state: ShotState, frames: readonly number[]): ShotState {
  const cuts = [...new Set([...state.document.cuts, ...frames])].sort((a, b) => a - b);
  return changeDocument(state, { cuts: cuts.slice(0, LIMITS.cuts) });
}

/**
 * Says of the features inside a shape on a frame that they go with a mover.
 *
 * @param to  the mover's id; null for one of their own
 */
export function addRegroup(
  state: ShotState,
  word: Pick<Regroup, 'frame' | 'shape'>,
  to: string | null,
): ShotState {
  const { regroups } = state.document;
  const taken = regroups.map((r) => r.to);
  let own = '';
  for (let n = 1; own === '' || taken.includes(own); n++) own = `drawn-${n}`;
  return changeDocument(state, { regroups: [...regroups, { ...word, to: to ?? own }] });
}

/** Names a mover, also one that was found in the picture. */
export function nameMover(state: ShotState, id: string, name: string): ShotState {
  const { movers } = state.document;
  const there = movers.some((m) => m.id === id);
  const next = there ? movers.map((m) => (m.id === id ? { id, name } : m)) : [...movers, { id, name }];
  return changeDocument(state, { movers: next });
}

export function addArea(state: ShotState, area: DrawnArea): ShotState {
  return changeDocument(state, { areas: [...state.document.areas, area] });
}

export function changeArea(
  state: ShotState,
  id: string,
  change: Partial<Omit<DrawnArea, 'id' | 'keys'>>,
): ShotState {
  const areas = state.document.areas.map((a) => (a.id === id ? { ...a, ...change } : a));
  return changeDocument(state, { areas });
}

export function removeArea(state: ShotState, id: string): ShotState {
  return changeDocument(state, { areas: state.document.areas.filter((a) => a.id !== id) });
}

/** Puts an area's keys in place of its old ones, in the order of their frames; of two on one frame the later stands. */
export function setAreaKeys(state: ShotState, id: string, keys: readonly AreaKey[]): ShotState {
  const byFrame = new Map(keys.map((key) => [key.frame, key]));
  const sorted = [...byFrame.values()].sort((a, b) => a.frame - b.frame);
  const areas = state.document.areas.map((a) => (a.id === id ? { ...a, keys: sorted } : a));
  return changeDocument(state, { areas });
}

/** "Ignored", "Ignored 2", ...: the first name of its kind that is free. */
export function nextAreaName({ areas }: ShotDocument, kind: AreaKind): string {
  const first = kind === 'ignore' ? 'Ignored' : 'Focus';
  for (let n = 1; ; n++) {
    const name = n === 1 ? first : `${first} ${n}`;
    if (!areas.some((a) => a.name === name)) return name;
  }
}

/** Takes doubts off the list: the editor has looked at them and found them to be fine. */
export function acceptDoubts(state: ShotState, doubts: readonly AcceptedDoubt[]): ShotState {
  const { accepted } = state.document;
  const fresh = doubts.map(({ spot, reason, from, to }) => ({ spot, reason, from, to }));
  return changeDocument(state, { accepted: [...accepted, ...fresh].slice(-LIMITS.accepted) });
}

/** Puts a join in a spot's list, in place of one on the same frame. */
export function setJoin(state: ShotState, id: string, join: Join): ShotState {
  const spot = spotsOf(state.document).find((s) => s.id === id);
  if (!spot) return state;
  const joins = [...spot.joins.filter((j) => j.frame !== join.frame), join].sort((a, b) => a.frame - b.frame);
  return changeSpot(state, id, { joins });
}

export function removeJoin(state: ShotState, id: string, frame: number): ShotState {
  const spot = spotsOf(state.document).find((s) => s.id === id);
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
  const easing = here?.goal === now.goal ? here.easing : goalKind(now.goal).easing;
  return setGoalKey(state, { frame, easing, ...now });
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

/** The first colour that the fewest trackers have. */
export function nextColour(document: ShotDocument): number {
  const uses = Array.from(
    { length: DATA_COLOURS },
    (_, c) => document.trackers.filter((t) => t.colour === c).length,
  );
  return uses.indexOf(Math.min(...uses));
}

/** A, B, ... Z, A2, B2, ...: the first short name that is free. */
export function nextName(document: ShotDocument): string {
  const taken = new Set(document.trackers.map((t) => t.name));
  for (let i = 0; ; i++) {
    const letter = String.fromCharCode(65 + (i % 26));
    const name = i < 26 ? letter : `${letter}${Math.floor(i / 26) + 1}`;
    if (!taken.has(name)) return name;
  }
}

/**
 * Holds a mover, which becomes one of the document's where it is one that was found in the picture; null for what most
 * of the spots tell.
 */
export function holdMover(state: ShotState, held: string | null, found?: Mover): ShotState {
  const { movers } = state.document;
  const known = held === null || movers.some((m) => m.id === held) || !found;
  return changeDocument(state, {
    held,
    ...(known ? {} : { movers: [...movers, { id: found.id, name: found.name }] }),
  });
}
