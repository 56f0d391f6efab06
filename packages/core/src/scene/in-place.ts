import { commonMotion, distanceFrom } from './common-motion.js';
import { commonFor, factsOf, FEWEST, middleOf, type Facts } from './mover-facts.js';
import { placeOf, slideOf, slowSlide } from './place.js';
import { sampleIndex, trackEnd, type SceneTracks } from './scene-tracks.js';

/** A depth of the place. */
export interface PlaceFacts {
  /** How far it slides in the picture, shake aside, in pixels: little where the camera is aimed at it. */
  readonly slide: number;
  /** The same of the place's depths on the whole. */
  readonly others: number;
  /** True where the camera is aimed at it; what merely slides least is far. */
  readonly aimed: boolean;
}

/** What is held where the camera travels and is aimed at it. */
export const AIMED_AT = 'place aimed at';

/** A group of tracks that move as one, with what is known of it. */
export interface Found {
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
export interface Depth extends PlaceFacts {
  /** Nearer or farther than what is held, and where in the picture. */
  readonly words: string;
}

/** What the camera is aimed at slides by less than this part of what the place slides by on the whole ... */
const AIMED = 0.35;
/** ... where that is more than this part of the picture's width, and is seen throughout by so many tracks. */
const TRAVELS = 0.01;
/** ... and it is aimed at where it slides by less than this part of the width. */
const AIMS = 0.005;
const [THROUGHOUT, TRIED] = [0.8, 5];
/** Tracks that slide by up to so many times as much as those that slide least may be of one thing. */
const SLIDES_ALIKE = 3;
/** One mover of this share of what moves as a whole is the surroundings, however the rest goes. */
const DOMINATES = 0.6;
/** So often what keeps to a motion is found anew. */
const ROUNDS = 3;
/** Of a place's many depths so many are told besides what is held, the largest. */
const MOST_DEPTHS = 5;
/** What goes by itself before a place that fills this much of what moves as a whole is no surroundings. */
const MOSTLY = 0.5;
const BY_ITSELF = 0.3;

/**
 * Groups of a part with what is known of them as depths of one place: where the camera travels, what it is aimed at - what
 * slides least in the picture - looks most like what a person would hold, and what goes by itself least.
 */
export function inPlace(
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
      const depth = { words: AIMED_AT, slide: aimed.slide, others, aimed: aimed.slide < AIMS * size.width };
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
    return [{ ...group, members, depth: { words, slide: slides[m], others, aimed: false } }];
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
    if (next.length < FEWEST) break;
    const settled = next.length === members.length;
    members = next;
    if (settled) break;
  }
  return members;
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
