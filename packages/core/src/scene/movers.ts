import { commonMotion, distanceFrom, type CommonMotion } from './common-motion.js';
import { randomNumbers } from '../numbers.js';
import type { Point } from '../geometry/matrix.js';
import { groupsOf } from './grouping.js';
import { backBy, placeOf, slideOf, slowSlide } from './place.js';
import { everyNth, partsOf, sampleIndex, trackCount, trackEnd, type SceneTracks } from './scene-tracks.js';

/** One thing of the picture that moves as a whole. */
export interface SceneMover {
  /** The same for the same clip, whenever it is analysed. */
  readonly id: string;
  readonly name: string;
  /** Its share of all that was measured, 0 to 1. */
  readonly share: number;
  /** The share of the picture's cells that it is usually seen in. */
  readonly spread: number;
  /** ... and of those along the picture's rim. */
  readonly rim: number;
  /** Frames on which it is seen. */
  readonly frames: number;
  /** True for what stands in the picture while everything else moves: a title, a mark. */
  readonly overlay: boolean;
  /** Of one of the depths of a scene that stands still, seen by a camera that travels: see `placeOf`. */
  readonly place?: PlaceFacts;
}

/** A depth of the place. */
export interface PlaceFacts {
  /** How far it slides in the picture, shake aside, in pixels: little where the camera is aimed at it. */
  readonly slide: number;
  /** The same of the place's depths on the whole. */
  readonly others: number;
}

/** What is known of a clip's pictures as a whole. */
export interface WholeScene {
  readonly tracks: SceneTracks;
  /** The surroundings first. */
  readonly movers: readonly SceneMover[];
  /** Of every track the mover that it is on, as its place in `movers`; -1 for one that goes with none. */
  readonly moverOf: Int16Array;
}

/** The tracks of a mover that begin within a stretch of frames. @param mover  place in the scene's list */
export function membersOf(
  { tracks, moverOf }: Pick<WholeScene, 'tracks' | 'moverOf'>,
  mover: number,
  { from, to }: { readonly from: number; readonly to: number },
): number[] {
  const out: number[] = [];
  for (let k = 0; k < moverOf.length; k++)
    if (moverOf[k] === mover && tracks.start[k] >= from && tracks.start[k] <= to) out.push(k);
  return out;
}

/** Of long clips every so many frames are looked at. */
const EVERY = 3;
const LONG = 60;
/** Frames that are grouped in one go, and how far apart such stretches begin. */
const STRETCH = 48;
const HOP = 32;
/** A track goes with a mover when it is within this part of the picture's height of it, by the median over its frames. */
const WITHIN = 0.0014;
const LEAST_WITHIN = 0.5;
/** Groups of neighbouring stretches are one when so many tracks are in both. */
const LINKING = 3;
/** Movers with fewer tracks than this, or seen on fewer frames, are left out. */
const FEWEST = 6;
const SHORTEST = 12;
/** Two movers whose tracks keep to each other's motion within this many times the usual limit are one. */
const ALIKE = 1.2;
const ROUNDS = 3;
/** Cells of the picture. */
const [COLUMNS, ROWS] = [12, 7];
/** What has moved less than this, in pixels, has stood in the picture ... */
const STOOD = 0.15;
/** ... and is no more than this of it, when it is something laid over. */
const LAID_OVER = 0.2;

/**
 * Tells the things of a clip apart by how they move: tracks are grouped stretch by stretch, groups linked by the tracks
 * that they have in common, then every track judged over its whole life against each mover's motion. The surroundings
 * are the mover that lies round the picture's rim, fills most of it and is there throughout.
 *
 * @param size  of the picture, in the tracks' pixels
 */
export function moversOf(all: SceneTracks, size: { width: number; height: number }): WholeScene {
  const step = all.frames > LONG ? EVERY : 1;
  const tracks = everyNth(all, step);
  const within = Math.max(LEAST_WITHIN, WITHIN * size.height);
  const moverOf = new Int16Array(trackCount(tracks)).fill(-1);
  const found: Found[] = [];
  partsOf(tracks).forEach(({ from, to }, part) => {
    const own: number[] = [];
    for (let k = 0; k < trackCount(tracks); k++)
      if (tracks.start[k] >= from && tracks.start[k] <= to) own.push(k);
    const groups = grouped(tracks, own, from, to, within, step).map((members) => ({
      ...{ members, part, facts: factsOf(tracks, members, from, to, size) },
    }));
    found.push(...inPlace(tracks, groups, own, { from, to, size, within, step }));
  });
  // Those of one part stand in order of how much they look like surroundings; the first of each part are one mover.
  const parts = [...new Set(found.map((g) => g.part))];
  const movers: { members: number[]; facts: Facts[]; depth: Depth | null }[] = [];
  for (const part of parts) {
    const list = found.filter((g) => g.part === part).sort((a, b) => b.facts.worth - a.facts.worth);
    list.forEach(({ members, facts, depth = null }, i) => {
      if (i === 0 && movers.length > 0) {
        movers[0].members.push(...members);
        movers[0].facts.push(facts);
      } else movers.push({ members: [...members], facts: [facts], depth });
    });
  }
  movers.forEach(({ members }, m) => members.forEach((k) => (moverOf[k] = m)));
  const named = new Map<string, number>();
  const samples = tracks.confidence.reduce((n, c) => n + (c > 0 ? 1 : 0), 0) || 1;
  return {
    tracks: all,
    moverOf,
    movers: movers.map(({ facts, depth }, m): SceneMover => {
      const sum = (key: 'samples' | 'frames') => facts.reduce((s, f) => s + f[key], 0);
      const mean = (key: 'spread' | 'rim') =>
        facts.reduce((s, f) => s + f[key] * f.frames, 0) / Math.max(1, sum('frames'));
      return {
        id: `scene-${m + 1}`,
        name: nameOf(
          m,
          facts.every((f) => f.overlay),
          depth,
          named,
        ),
        share: Math.min(1, sum('samples') / samples),
        spread: mean('spread'),
        rim: mean('rim'),
        frames: Math.min(all.frames, step * sum('frames')),
        overlay: facts.every((f) => f.overlay),
        ...(depth && { place: { slide: depth.slide, others: depth.others } }),
      };
    }),
  };
}

/** What is held where the camera travels and is aimed at it. */
const AIMED_AT = 'place aimed at';

interface Found {
  readonly members: number[];
  readonly facts: Facts;
  readonly part: number;
  readonly depth?: Depth;
}

/** Frames that are looked at as one, and how closely. */
interface Part {
  readonly from: number;
  readonly to: number;
  readonly size: { readonly width: number; readonly height: number };
  readonly within: number;
  readonly step: number;
}

/** A mover as a depth of the place. */
interface Depth extends PlaceFacts {
  /** Nearer or farther than what is held, and where in the picture. */
  readonly words: string;
}

/** What the camera is aimed at slides by less than this part of what the place slides by on the whole ... */
const AIMED = 0.35;
/** ... where that is more than this part of the picture's width, and is seen throughout by so many tracks. */
const TRAVELS = 0.01;
const [THROUGHOUT, TRIED] = [0.8, 5];
/** Tracks that slide by up to so many times as much as those that slide least may be of one thing. */
const SLIDES_ALIKE = 3;
/** One mover of this share of what moves as a whole is the surroundings, however the rest goes. */
const DOMINATES = 0.6;
/** Of a place's many depths so many are told besides what is held, the largest. */
const MOST_DEPTHS = 5;
/** What goes by itself before a place that fills this much of what moves as a whole is no surroundings. */
const MOSTLY = 0.5;
const BY_ITSELF = 0.3;

/**
 * Groups of a part with what is known of them as depths of one place: where the camera travels, what it is aimed at - what
 * slides least in the picture - looks most like what a person would hold, and what goes by itself least.
 */
function inPlace(
  tracks: SceneTracks,
  groups: readonly Found[],
  own: readonly number[],
  { from, to, size, within, step }: Part,
): Found[] {
  const movers = groups.filter((g) => !g.facts.overlay);
  const samples = movers.reduce((n, g) => n + g.facts.samples, 0);
  // Where one thing is most of what moves as a whole, the pieces beside it are no depths of it.
  if (movers.length < 2 || movers.some((g) => g.facts.samples > DOMINATES * samples)) return [...groups];
  const standing = leastSliding(tracks, groups, own, { from, to, size, within, step });
  const whole = [...groups, ...standing].filter((g) => !g.facts.overlay);
  const total = whole.reduce((n, g) => n + g.members.length, 0);
  const candidates = whole.map(({ members }) => candidateOf(tracks, members, total, from, to));
  const place = placeOf(candidates);
  if (!place) return [...groups];
  const slides = candidates.map(slideOf);
  const others = weightedMedian(place.members.map((m) => [slides[m], candidates[m].share]));
  // What is aimed at may have been broken apart by its neighbours: it is grown from those that slide least.
  const aimed = [...place.members]
    .sort((p, q) => slides[p] - slides[q])
    .slice(0, TRIED)
    .map((m) => {
      const members = grown(tracks, whole[m].members, own, from, to, within, step);
      const candidate = candidateOf(tracks, members, total, from, to);
      return { m, members, slide: slideOf(candidate), facts: factsOf(tracks, members, from, to, size) };
    })
    .filter(({ facts, members }) => members.length >= FEWEST && facts.frames >= THROUGHOUT * (to - from + 1))
    .sort((p, q) => p.slide - q.slide)
    .find(({ slide }) => others > TRAVELS * size.width && slide < AIMED * others);
  const worth = (m: number) => whole[m].facts.worth;
  const first = aimed?.m ?? place.members.reduce((p, q) => (worth(q) > worth(p) ? q : p));
  const most = Math.max(...whole.map((g) => g.facts.worth));
  const fills = place.members.reduce((sum, m) => sum + candidates[m].share, 0) >= MOSTLY;
  // What is near shifts without a bound, what is far by no more than what is without end.
  const gains = place.parallax.map((p) => p - place.parallax[place.members.indexOf(first)]);
  const nearer = Math.max(...gains) >= -Math.min(...gains) ? 1 : -1;
  const taken = new Set(aimed?.members);
  const shown = place.members
    .filter((m) => m !== first)
    .sort((p, q) => candidates[q].share - candidates[p].share)
    .slice(0, MOST_DEPTHS);
  return [...groups, ...standing].flatMap((group): Found[] => {
    const m = whole.indexOf(group);
    if (standing.includes(group) && m !== aimed?.m) return [];
    if (aimed && m === aimed.m) {
      const depth = { words: AIMED_AT, slide: aimed.slide, others };
      return [{ ...group, members: aimed.members, facts: { ...aimed.facts, worth: 2 * most }, depth }];
    }
    const members = group.members.filter((k) => !taken.has(k));
    if (members.length < FEWEST) return [];
    const k = place.members.indexOf(m);
    if (k < 0) {
      const less = fills && !group.facts.overlay ? BY_ITSELF : 1;
      return [{ ...group, members, facts: { ...group.facts, worth: less * group.facts.worth } }];
    }
    if (m !== first && !shown.includes(m)) return [];
    const third = Math.min(2, Math.max(0, Math.floor((3 * meanX(tracks, members)) / size.width)));
    const words = `${nearer * gains[k] > 0 ? 'near' : 'far'}, ${['left', 'middle', 'right'][third]}`;
    return [{ ...group, members, depth: { words, slide: slides[m], others } }];
  });
}

/**
 * What slides least of all that is seen throughout, as a group of its own where it is none yet: something small that the
 * camera is aimed at has few features beside those of all that lies around.
 */
function leastSliding(
  tracks: SceneTracks,
  groups: readonly Found[],
  own: readonly number[],
  { from, to, size, within, step }: Part,
): Found[] {
  const length = to - from + 1;
  const throughout = own
    .filter((k) => trackEnd(tracks, k) - tracks.start[k] >= THROUGHOUT * length)
    .map((k) => {
      const places = Array.from({ length }, (_, f) => {
        const at = sampleIndex(tracks, k, from + f);
        return at < 0 ? null : { x: tracks.x[at], y: tracks.y[at] };
      });
      return { k, slide: slowSlide(places) };
    })
    .sort((p, q) => p.slide - q.slide);
  if (throughout.length < FEWEST) return [];
  const most = Math.max(SLIDES_ALIKE * throughout[FEWEST >> 1].slide, within);
  const seeds = throughout.filter((t) => t.slide <= most).map((t) => t.k);
  const members = grown(tracks, seeds, own, from, to, within, step);
  const known = groups.some(
    (g) => members.filter((k) => g.members.includes(k)).length > 0.7 * members.length,
  );
  if (members.length < FEWEST || known) return [];
  return [{ members, part: groups[0]?.part ?? 0, facts: factsOf(tracks, members, from, to, size) }];
}

function candidateOf(tracks: SceneTracks, members: number[], total: number, from: number, to: number) {
  const motion = commonMotion(tracks, members, from, to);
  return { motion, rest: middleOf(tracks, members, motion), share: members.length / total };
}

/** All tracks that keep to the motion of some, found anew with all of them. */
function grown(
  tracks: SceneTracks,
  seeds: number[],
  own: readonly number[],
  from: number,
  to: number,
  within: number,
  step: number,
): number[] {
  let members = seeds;
  for (let round = 0; round < ROUNDS; round++) {
    const motion = commonMotion(tracks, members, from, to);
    const next = own.filter((k) => distanceFrom(tracks, k, motion, commonFor(step)) <= within);
    if (next.length < FEWEST || sameList(next, members)) break;
    members = next;
  }
  return members;
}

function nameOf(m: number, overlay: boolean, depth: Depth | null, named: Map<string, number>): string {
  if (m === 0) return depth?.words === AIMED_AT ? AIMED_AT : 'surroundings';
  if (overlay) return `overlay ${m}`;
  if (!depth) return `mover ${m + 1}`;
  const n = (named.get(depth.words) ?? 0) + 1;
  named.set(depth.words, n);
  return n === 1 ? depth.words : `${depth.words} ${n}`;
}

/** Where the middle of some tracks rests by their motion: told where most of them are seen. */
function middleOf(tracks: SceneTracks, members: readonly number[], motion: CommonMotion): Point {
  let best = 0;
  motion.support.forEach((n, f) => n > motion.support[best] && (best = f));
  let [x, y, n] = [0, 0, 0];
  for (const k of members) {
    const at = sampleIndex(tracks, k, motion.from + best);
    if (at < 0) continue;
    x += tracks.x[at];
    y += tracks.y[at];
    n++;
  }
  return backBy(motion, best, { x: x / Math.max(1, n), y: y / Math.max(1, n) });
}

function meanX(tracks: SceneTracks, members: readonly number[]): number {
  let [sum, n] = [0, 0];
  for (const k of members)
    for (let at = tracks.first[k]; at < tracks.first[k + 1]; at++) {
      if (tracks.confidence[at] === 0) continue;
      sum += tracks.x[at];
      n++;
    }
  return sum / Math.max(1, n);
}

function weightedMedian(list: readonly (readonly [value: number, weight: number])[]): number {
  const sorted = [...list].sort((a, b) => a[0] - b[0]);
  const half = sorted.reduce((s, [, w]) => s + w, 0) / 2;
  let sum = 0;
  return sorted.find(([, w]) => (sum += w) >= half)![0];
}

/** Tracks are judged on this many common frames at the least: eight, or three of those that are looked at. */
const commonFor = (step: number) => Math.max(3, Math.floor(8 / step));

/** The movers of one part, as lists of tracks. */
function grouped(
  tracks: SceneTracks,
  own: readonly number[],
  from: number,
  to: number,
  within: number,
  step: number,
): number[][] {
  const [stretch, hop] = [STRETCH / step, Math.floor(HOP / step)];
  const random = randomNumbers(from + 1);
  /** Of every track, the mover of the stretch before that it was in. */
  const before = new Map<number, number>();
  let lists: Set<number>[] = [];
  for (let begin = from; begin === from || begin + hop / 2 <= to; begin += hop) {
    const end = Math.min(to, begin + stretch - 1);
    const here = own.filter((k) => tracks.start[k] <= end && trackEnd(tracks, k) > begin);
    const groups = groupsOf(tracks, here, begin, end, { within, common: commonFor(step) }, random);
    const taken = new Set<number>();
    for (const { members } of groups) {
      const votes = new Map<number, number>();
      for (const k of members) {
        const m = before.get(k);
        if (m !== undefined && !taken.has(m)) votes.set(m, (votes.get(m) ?? 0) + 1);
      }
      const [best] = [...votes].sort((a, b) => b[1] - a[1]);
      let mover = best && best[1] >= LINKING ? best[0] : -1;
      if (mover < 0) mover = lists.push(new Set()) - 1;
      taken.add(mover);
      for (const k of members) {
        lists[mover].add(k);
        before.set(k, mover);
      }
    }
  }
  // A track belongs where it was put last.
  lists = lists.map((_, m) => new Set([...before].filter(([, at]) => at === m).map(([k]) => k)));
  const whole = lists.flatMap((s) => unmixed(tracks, [...s], from, to, within, step, random));
  return settled(tracks, own, whole, from, to, within, step);
}

/** Less than this part of a list keeps to what it has in common where things of a like course have come into it. */
const PURE = 0.8;

/** What of a list moves as one over its whole life: over a few seconds neighbouring depths may go alike. */
function unmixed(
  tracks: SceneTracks,
  list: number[],
  from: number,
  to: number,
  within: number,
  step: number,
  random: () => number,
): number[][] {
  const common = commonFor(step);
  const motion = commonMotion(tracks, list, from, to);
  const kept = list.filter((k) => distanceFrom(tracks, k, motion, common) <= within);
  if (kept.length >= PURE * list.length) return [list];
  const groups = groupsOf(tracks, list, from, to, { within, common }, random);
  return groups.length > 0 ? groups.map((g) => [...g.members]) : [list];
}

const sameList = (a: readonly number[], b: readonly number[]) =>
  a.length === b.length && a.every((k, i) => k === b[i]);

/** Every track with the mover that it keeps to best over its life; movers that are one joined. */
function settled(
  tracks: SceneTracks,
  own: readonly number[],
  first: number[][],
  from: number,
  to: number,
  within: number,
  step: number,
): number[][] {
  let lists = first.filter((l) => l.length >= FEWEST);
  for (let round = 0; round < ROUNDS; round++) {
    const motions = lists.map((members) => commonMotion(tracks, members, from, to));
    const next: number[][] = lists.map(() => []);
    const distances: (readonly number[])[] = [];
    for (const k of own) {
      const away = motions.map((motion) => distanceFrom(tracks, k, motion, commonFor(step)));
      distances.push(away);
      let best = -1;
      away.forEach((d, m) => {
        if (d <= within && (best < 0 || d < away[best])) best = m;
      });
      if (best >= 0) next[best].push(k);
    }
    const judged = joined(next, own, distances, within).filter((l) => l.length >= FEWEST);
    // Nothing has changed, nor would it by another round.
    const same = judged.length === lists.length && judged.every((l, m) => sameList(l, lists[m]));
    lists = judged;
    if (same) break;
  }
  return lists.filter((l) => seenOn(tracks, l, from, to) >= Math.min(SHORTEST / step, to - from + 1));
}

/** Joins movers of which each keeps to the other's motion as well as to its own. */
function joined(
  lists: readonly (readonly number[])[],
  own: readonly number[],
  distances: readonly (readonly number[])[],
  within: number,
): number[][] {
  const index = new Map(own.map((k, i) => [k, i]));
  const to = lists.map((_, m) => m);
  const order = lists.map((_, m) => m).sort((a, b) => lists[b].length - lists[a].length);
  for (const b of [...order].reverse()) {
    for (const a of order) {
      if (a === b || to[a] !== a || lists[a].length < lists[b].length) continue;
      const known = lists[b].map((k) => distances[index.get(k)!][a]).filter((d) => !Number.isNaN(d));
      const close = known.filter((d) => d <= ALIKE * within).length;
      if (known.length >= lists[b].length / 2 && close > 0.6 * known.length) {
        to[b] = a;
        break;
      }
    }
  }
  const root = (m: number): number => (to[m] === m ? m : root(to[m]));
  const out: number[][] = lists.map(() => []);
  lists.forEach((l, m) => out[root(m)].push(...l));
  return out.filter((l) => l.length > 0);
}

function seenOn(tracks: SceneTracks, members: readonly number[], from: number, to: number): number {
  let n = 0;
  for (let f = from; f <= to; f++) {
    let here = 0;
    for (const k of members) if (sampleIndex(tracks, k, f) >= 0 && ++here === 2) break;
    if (here === 2) n++;
  }
  return n;
}

interface Facts {
  readonly samples: number;
  readonly frames: number;
  readonly spread: number;
  readonly rim: number;
  readonly overlay: boolean;
  /** How much it looks like the surroundings. */
  readonly worth: number;
}

/** What some tracks are like on some frames. */
export function factsOf(
  tracks: SceneTracks,
  members: readonly number[],
  from: number,
  to: number,
  { width, height }: { width: number; height: number },
): Facts {
  const every = Math.max(1, Math.floor((to - from + 1) / 60));
  let [looked, seen, cellsSeen, rimSeen, samples] = [0, 0, 0, 0, 0];
  const rimCells = 2 * (COLUMNS + ROWS) - 4;
  for (let f = from; f <= to; f += every) {
    const cells = new Uint8Array(COLUMNS * ROWS);
    let here = 0;
    for (const k of members) {
      const at = sampleIndex(tracks, k, f);
      if (at < 0) continue;
      here++;
      const i = Math.min(COLUMNS - 1, Math.max(0, Math.floor((tracks.x[at] / width) * COLUMNS)));
      const j = Math.min(ROWS - 1, Math.max(0, Math.floor((tracks.y[at] / height) * ROWS)));
      cells[j * COLUMNS + i] = 1;
    }
    looked++;
    samples += here * every;
    if (here < 2) continue;
    seen++;
    cells.forEach((c, p) => {
      const [i, j] = [p % COLUMNS, Math.floor(p / COLUMNS)];
      cellsSeen += c;
      if (i === 0 || j === 0 || i === COLUMNS - 1 || j === ROWS - 1) rimSeen += c;
    });
  }
  const spread = seen ? cellsSeen / seen / (COLUMNS * ROWS) : 0;
  const rim = seen ? rimSeen / seen / rimCells : 0;
  const presence = looked ? seen / looked : 0;
  const motion = commonMotion(tracks, members, from, to);
  const overlay = spread < LAID_OVER && moved(motion, width, height) < STOOD;
  return {
    ...{ samples, spread, rim, overlay, frames: Math.round(presence * (to - from + 1)) },
    worth: presence * (0.5 * spread + 0.5 * rim) * (overlay ? 0.01 : 1),
  };
}

/** The farthest that the middle of the picture is taken by a motion, in pixels. */
function moved({ ax, ay, tx, ty }: CommonMotion, width: number, height: number): number {
  const at = (f: number) => [
    (ax[f] * width - ay[f] * height) / 2 + tx[f],
    (ax[f] * height + ay[f] * width) / 2 + ty[f],
  ];
  const [x0, y0] = at(0);
  let most = 0;
  for (let f = 1; f < ax.length; f++) {
    const [x, y] = at(f);
    most = Math.max(most, Math.abs(x - x0), Math.abs(y - y0));
  }
  return most;
}
