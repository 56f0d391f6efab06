import { commonMotion, distanceFrom, type CommonMotion } from './common-motion.js';
import { sampleIndex, trackEnd, type SceneTracks } from './scene-tracks.js';

/** Tracks that moved as one over some frames. */
export interface Group {
  readonly members: readonly number[];
}

/** A track goes with a motion when it is within so many pixels of it, by the median over the frames. */
export interface Limits {
  readonly within: number;
  /** Frames that a track and a motion have in common at the least. */
  readonly common: number;
}

/** Fewer tracks than this, or than this share of all, are no group. */
const FEWEST = 6;
const LEAST_SHARE = 0.02;
/** Pairs that are tried for each group. */
const PAIRS = 100;
/** ... fewer where a group is so large that, of pairs that are good at this rate, one would be missed this rarely. */
const FEWEST_PAIRS = 10;
const GOOD = 0.4;
const MISSED = 1e-3;
/** The second of a pair is one of so many, of the candidates that are looked at, that are nearest to the first ... */
const NEIGHBOURS = 6;
const LOOKED_AT = 80;
/** ... no nearer than this, in pixels: pairs of a hand's breadth tell no turn. */
const LEAST_APART = 24;
/** Frames on which a pair is tried. */
const MOMENTS = 14;
/** The pairs that most tracks go with are looked at closely. */
const CLOSE_LOOKS = 3;
/** How many times farther off than the pair is wide a track may be before it is judged less strictly. */
const MOST_LEVER = 5;

/**
 * Groups the tracks of a few seconds by moving as one: again and again the pair of tracks whose similarity most of the
 * others keep to (random sample consensus, Fischler and Bolles 1981, over whole tracks and not frame by frame), bettered
 * over all of them, and taken away.
 *
 * @param random  a seeded generator
 */
export function groupsOf(
  tracks: SceneTracks,
  candidates: readonly number[],
  from: number,
  to: number,
  limits: Limits,
  random: () => number,
): Group[] {
  const least = Math.max(FEWEST, LEAST_SHARE * candidates.length);
  const moments = Array.from({ length: MOMENTS }, (_, i) =>
    Math.round(from + ((to - from) * (i + 0.5)) / MOMENTS),
  );
  const places = new Places(tracks, moments);
  let left = candidates.filter((k) => inCommon(tracks, k, from, to) >= limits.common);
  const groups: Group[] = [];
  while (left.length >= least) {
    const members = largest(tracks, places, left, from, to, limits, random);
    if (members.length < least) break;
    groups.push({ members });
    const taken = new Set(members);
    left = left.filter((k) => !taken.has(k));
  }
  return groups;
}

function inCommon({ start, ...tracks }: SceneTracks, k: number, from: number, to: number): number {
  return Math.min(to + 1, trackEnd({ start, ...tracks }, k)) - Math.max(from, start[k]);
}

/** The places of tracks on some moments. */
class Places {
  private readonly known = new Map<number, Float64Array>();
  constructor(
    private readonly tracks: SceneTracks,
    private readonly moments: readonly number[],
  ) {}

  /** x, y of each moment; NaN where the track has none. */
  of(k: number): Float64Array {
    let places = this.known.get(k);
    if (!places) {
      places = new Float64Array(2 * this.moments.length);
      this.moments.forEach((f, i) => {
        const at = sampleIndex(this.tracks, k, f);
        places![2 * i] = at < 0 ? NaN : this.tracks.x[at];
        places![2 * i + 1] = at < 0 ? NaN : this.tracks.y[at];
      });
      this.known.set(k, places);
    }
    return places;
  }
}

function largest(
  tracks: SceneTracks,
  places: Places,
  left: readonly number[],
  from: number,
  to: number,
  limits: Limits,
  random: () => number,
): number[] {
  const { within } = limits;
  const tried: { members: number[] }[] = [];
  let most = 0;
  for (let n = 0; n < PAIRS; n++) {
    const a = left[Math.floor(random() * left.length)];
    const b = partner(places, left, a, random);
    if (b === null) continue;
    const members = left.filter((k) => goesWith(places.of(a), places.of(b), places.of(k), within));
    tried.push({ members });
    most = Math.max(most, members.length / left.length);
    // A pair of the largest group has almost surely been among so many.
    if (n >= FEWEST_PAIRS && n >= Math.log(MISSED) / Math.log(1 - most * most * GOOD)) break;
  }
  tried.sort((p, q) => q.members.length - p.members.length);
  let best: number[] = [];
  for (const { members } of tried.slice(0, CLOSE_LOOKS)) {
    // More than all there are none.
    if (best.length === left.length) break;
    if (members.length < best.length / 2 || members.length < 3) continue;
    const better = bettered(tracks, left, members, from, to, limits);
    if (better.length > best.length) best = better;
  }
  return best;
}

/** The tracks that keep to the motion that some have in common, found anew with all of them. */
function bettered(
  tracks: SceneTracks,
  left: readonly number[],
  first: readonly number[],
  from: number,
  to: number,
  { within, common }: Limits,
): number[] {
  let members: readonly number[] = first;
  for (let round = 0; round < 3; round++) {
    const motion: CommonMotion = commonMotion(tracks, members, from, to, round > 0 ? 1 : 0);
    const next = left.filter((k) => distanceFrom(tracks, k, motion, common) <= within);
    if (next.length < 3) return [];
    if (round > 0 && next.length === members.length) return next;
    members = next;
  }
  return [...members];
}

/** Another track near one, seen on enough of the same moments. */
function partner(places: Places, left: readonly number[], a: number, random: () => number): number | null {
  const p = places.of(a);
  const near: { k: number; d: number }[] = [];
  const every = Math.max(1, left.length / LOOKED_AT);
  for (let at = random() * every; at < left.length; at += every) {
    const k = left[Math.floor(at)];
    if (k === a) continue;
    const q = places.of(k);
    let [n, d] = [0, 0];
    for (let i = 0; i < p.length; i += 2) {
      const [dx, dy] = [q[i] - p[i], q[i + 1] - p[i + 1]];
      if (Number.isNaN(dx + dy)) continue;
      n++;
      d += Math.sqrt(dx * dx + dy * dy);
    }
    if (n < 4) continue;
    d /= n;
    if (d >= LEAST_APART) near.push({ k, d });
  }
  if (near.length === 0) return null;
  near.sort((x, y) => x.d - y.d);
  return near[Math.floor(random() * Math.min(NEIGHBOURS, near.length))].k;
}

const [us, vs, lengths] = [0, 1, 2].map(() => new Float64Array(MOMENTS));

/** Against a pair a, b a track that moves with it keeps its place (z - a) / (b - a), in complex numbers. */
function goesWith(a: Float64Array, b: Float64Array, z: Float64Array, within: number): boolean {
  let n = 0;
  let [mu, mv] = [0, 0];
  for (let i = 0; i < a.length; i += 2) {
    const [dx, dy] = [b[i] - a[i], b[i + 1] - a[i + 1]];
    const [sx, sy] = [z[i] - a[i], z[i + 1] - a[i + 1]];
    const square = dx * dx + dy * dy;
    if (!(square > 1) || Number.isNaN(sx)) continue;
    us[n] = (sx * dx + sy * dy) / square;
    vs[n] = (sy * dx - sx * dy) / square;
    lengths[n] = Math.sqrt(square);
    mu += us[n];
    mv += vs[n];
    n++;
  }
  if (n < 4) return false;
  [mu, mv] = [mu / n, mv / n];
  const lever = Math.min(MOST_LEVER, Math.max(1, Math.sqrt(mu * mu + mv * mv)));
  let sum = 0;
  for (let i = 0; i < n; i++) {
    sum += ((us[i] - mu) ** 2 + (vs[i] - mv) ** 2) * lengths[i] ** 2;
  }
  return Math.sqrt(sum / n) <= within * lever;
}
