import { randomNumbers } from '../numbers.js';
import { commonMotion, distanceFrom } from './common-motion.js';
import { groupsOf } from './grouping.js';
import { AIMED_AT, inPlace, type Depth, type Found, type PlaceFacts } from './in-place.js';
import { behindOthers } from './in-front.js';
import { commonFor, factsOf, FEWEST, weighed, type Evidence, type Facts } from './mover-facts.js';
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
  /** What else speaks for holding it, or against; left out of what was read by an older version. */
  readonly evidence?: Evidence;
  /** Of one of the depths of a scene that stands still, seen by a camera that travels: see `placeOf`. */
  readonly place?: PlaceFacts;
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
/** Movers that are seen on fewer frames than this are left out. */
const SHORTEST = 12;
/** Two movers whose tracks keep to each other's motion within this many times the usual limit are one. */
const ALIKE = 1.2;
const ROUNDS = 3;

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
    const lists = grouped(tracks, own, from, to, within, step);
    const facts = lists.map((members) => factsOf(tracks, members, from, to, size));
    const groupOf = new Int16Array(trackCount(tracks)).fill(-1);
    lists.forEach((members, g) => members.forEach((k) => (groupOf[k] = g)));
    const behind = behindOthers(tracks, groupOf, lists.length, { from, to, ...size });
    const worths = weighed(facts, behind, size.width);
    const groups = lists.map((members, g) => ({
      ...{ members, part, facts: { ...facts[g], behind: behind[g], worth: worths[g] } },
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
        evidence: {
          reach: facts[0].reach,
          presence: Math.min(1, facts[0].presence),
          behind: facts[0].behind,
          slide: facts[0].slide,
        },
        ...(depth && { place: { slide: depth.slide, others: depth.others, aimed: depth.aimed } }),
      };
    }),
  };
}

function nameOf(m: number, overlay: boolean, depth: Depth | null, named: Map<string, number>): string {
  if (m === 0) return depth?.aimed ? AIMED_AT : 'surroundings';
  if (overlay) return `overlay ${m}`;
  if (!depth) return `mover ${m + 1}`;
  const n = (named.get(depth.words) ?? 0) + 1;
  named.set(depth.words, n);
  return n === 1 ? depth.words : `${depth.words} ${n}`;
}

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
