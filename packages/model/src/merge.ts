import type { ShotDocument, ShotState, Spot } from './document.js';

/**
 * Joins what two tabs made of one state: whatever only one of them changed is kept from that one; where both
 * changed the same thing, `mine` is. A spot deleted in one tab and changed in the other stays.
 */
export function mergeStates(base: ShotState, mine: ShotState, theirs: ShotState): ShotState {
  const pick = <T>(b: T, m: T, t: T): T => (same(m, b) ? t : m);
  const of = (state: ShotState) => new Map(state.document.spots.map((s) => [s.id, s]));
  const [b, m, t] = [of(base), of(mine), of(theirs)];
  const spots: Spot[] = [];
  for (const id of new Set([...t.keys(), ...m.keys()])) {
    const [own, other, old] = [m.get(id), t.get(id), b.get(id)];
    if (own && other) spots.push(pick(old ?? other, own, other));
    else if (own && (!old || !same(own, old) || !same(mine.tracks[id], base.tracks[id]))) spots.push(own);
    else if (other && (!old || !same(other, old) || !same(theirs.tracks[id], base.tracks[id])))
      spots.push(other);
  }
  const document = { ...theirs.document, spots };
  for (const key of Object.keys(mine.document) as (keyof ShotDocument)[]) {
    if (key === 'spots') continue;
    Object.assign(document, { [key]: pick(base.document[key], mine.document[key], theirs.document[key]) });
  }
  const tracks = Object.fromEntries(
    spots.map(({ id }) => [
      id,
      pick(base.tracks[id], mine.tracks[id] ?? theirs.tracks[id], theirs.tracks[id] ?? mine.tracks[id]),
    ]),
  );
  return { document, tracks };
}

/** Deep equality of plain values and typed arrays. */
export function same(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || !a || !b) return false;
  const keys = Object.keys(a);
  return (
    keys.length === Object.keys(b).length &&
    keys.every((k) => same((a as Record<string, unknown>)[k], (b as Record<string, unknown>)[k]))
  );
}
