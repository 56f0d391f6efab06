import type { ShotState } from './document.js';
import type { Tracker } from './trackers/index.js';

type Plain = Readonly<Record<string, unknown>>;

/**
 * Joins what two sides made of one state, three ways: whatever only one of them changed is kept from that one, field by
 * field, in lists entry by entry; where both changed the same field, `mine` is. A tracker deleted on one side and
 * changed, or measured anew, on the other stays.
 */
export function mergeStates(base: ShotState, mine: ShotState, theirs: ShotState): ShotState {
  const document = mergeValues(base.document, mine.document, theirs.document) as ShotState['document'];
  const of = ({ document: d }: ShotState) => new Map(d.trackers.map((t) => [t.id, t]));
  const [b, m, t] = [of(base), of(mine), of(theirs)];
  const merged = new Map(document.trackers.map((tracker) => [tracker.id, tracker]));
  for (const [id, old] of b) {
    // Deleted on one side, measured anew on the other: the document alone would not tell.
    if (!m.has(id) && t.has(id) && !same(theirs.measured[id], base.measured[id])) merged.set(id, t.get(id)!);
    if (!t.has(id) && m.has(id) && !same(mine.measured[id], base.measured[id])) merged.set(id, m.get(id)!);
    if (!m.has(id) && !t.has(id)) merged.delete(old.id);
  }
  const trackers: Tracker[] = [...merged.values()];
  const measured = Object.fromEntries(
    trackers.flatMap(({ id }) => {
      const [x, y, z] = [base.measured[id], mine.measured[id], theirs.measured[id]];
      const chosen = same(y, x) ? z : y;
      const kept = chosen ?? y ?? z;
      return kept ? [[id, kept]] : [];
    }),
  );
  const areas = document.areas.map((area) => {
    // Keys of two sides need not have as many corners, and each side may have taken the other's last: one side's stand.
    const corners = new Set(area.keys.map((key) => key.shape.length));
    if (corners.size === 1) return area;
    const of = ({ document: d }: ShotState) => d.areas.find((a) => a.id === area.id);
    return of(mine) ?? of(theirs) ?? area;
  });
  // Said in an order, and several may be said of one frame: one side's words stand as a whole.
  const { regroups } = same(mine.document.regroups, base.document.regroups) ? theirs.document : mine.document;
  return {
    document: { ...document, trackers, areas, regroups, ...withMovers(document, trackers, mine, theirs) },
    measured,
  };
}

/** A mover that a kept tracker is on, or that is held, is kept too, whichever side took it away. */
function withMovers(
  { movers, held }: ShotState['document'],
  trackers: readonly Tracker[],
  ...sides: readonly ShotState[]
): Pick<ShotState['document'], 'movers'> {
  const needed = new Set([...trackers.map((t) => t.mover), ...(held === null ? [] : [held])]);
  const lost = sides
    .flatMap((s) => s.document.movers)
    .filter((m, i, all) => needed.has(m.id) && all.findIndex((o) => o.id === m.id) === i)
    .filter((m) => !movers.some((o) => o.id === m.id));
  return { movers: lost.length > 0 ? [...movers, ...lost] : movers };
}

function mergeValues(base: unknown, mine: unknown, theirs: unknown): unknown {
  if (same(mine, base)) return theirs;
  if (same(theirs, base) || same(mine, theirs)) return mine;
  if (isPlain(mine) && isPlain(theirs) && isPlain(base)) {
    const keys = new Set([...Object.keys(theirs), ...Object.keys(mine)]);
    return Object.fromEntries([...keys].map((key) => [key, mergeValues(base[key], mine[key], theirs[key])]));
  }
  const key = [base, mine, theirs].every(Array.isArray) ? keyOf([base, mine, theirs].flat()) : null;
  return key ? mergeLists(base as Plain[], mine as Plain[], theirs as Plain[], key) : mine;
}

/** By what entries of a list are told apart: all have an id, or all a frame. */
function keyOf(entries: readonly unknown[]): string | null {
  return (
    ['id', 'frame'].find((key) => entries.length > 0 && entries.every((e) => isPlain(e) && key in e)) ?? null
  );
}

function mergeLists(
  base: readonly Plain[],
  mine: readonly Plain[],
  theirs: readonly Plain[],
  key: string,
): Plain[] {
  const of = (list: readonly Plain[]) => new Map(list.map((e) => [e[key], e]));
  const [b, m, t] = [of(base), of(mine), of(theirs)];
  const out: Plain[] = [];
  for (const id of new Set([...t.keys(), ...m.keys()])) {
    const [own, other, old] = [m.get(id), t.get(id), b.get(id)];
    if (own && other) out.push(mergeValues(old ?? other, own, other) as Plain);
    else if (own && !old) out.push(named(own, theirs));
    else if (own && !same(own, old)) out.push(own);
    else if (other && (!old || !same(other, old))) out.push(other);
  }
  return key === 'frame' ? out.sort((p, q) => Number(p.frame) - Number(q.frame)) : out;
}

/** An entry that one side has added, with a number behind its name where the other side has given that name, too. */
function named(entry: Plain, others: readonly Plain[]): Plain {
  const { name } = entry;
  const isTaken = (wanted: unknown) => others.some((o) => o.name === wanted);
  if (typeof name !== 'string' || !isTaken(name)) return entry;
  let n = 2;
  while (isTaken(`${name} ${n}`)) n++;
  return { ...entry, name: `${name} ${n}` };
}

function isPlain(value: unknown): value is Plain {
  return typeof value === 'object' && value !== null && !Array.isArray(value) && !ArrayBuffer.isView(value);
}

/** Deep equality of plain values and typed arrays. */
export function same(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || !a || !b) return false;
  if (ArrayBuffer.isView(a) && ArrayBuffer.isView(b)) return sameNumbers(a, b);
  const keys = Object.keys(a);
  return (
    keys.length === Object.keys(b).length &&
    keys.every((k) => Object.hasOwn(b, k) && same((a as Plain)[k], (b as Plain)[k]))
  );
}

function sameNumbers(a: ArrayBufferView, b: ArrayBufferView): boolean {
  const [p, q] = [a as unknown as ArrayLike<number>, b as unknown as ArrayLike<number>];
  if (p.length !== q.length) return false;
  for (let i = 0; i < p.length; i++) if (!Object.is(p[i], q[i])) return false;
  return true;
}
