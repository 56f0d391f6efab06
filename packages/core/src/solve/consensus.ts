import { medianSorted } from '../numbers.js';
import type { Observations } from './observations.js';

/** Below this many spots there is no majority: two are always met exactly, and three can be told apart in three ways. */
const LEAST_SPOTS = 4;
/** Frames that are looked at at the most. */
const MOST_FRAMES = 48;
/** Pairs that are tried: all of them, or so many that pairs times spots is this much ... */
const MOST_TRIALS = 1600;
/** ... but never fewer: among so many one of two good spots is sure to be, even if half of all are bad. */
const LEAST_PAIRS = 16;
/** Common frames that a spot is judged on at the least. */
const LEAST_FRAMES = 5;
/** A spot agrees up to so many times the error of the middling one, and always within so many pixels. */
const TIMES = 4;
const ALWAYS = 0.4;
/** Pairs that can judge fewer than this share of the spots that any pair can judge are passed over. */
const JUDGED = 0.6;

/** A spot that is seen on so large a share of the frames of the longest-lived has its full say; shorter ones have less. */
export const LONG_LIVED = 0.25;

/** On how many frames each spot is seen, as a share of those of the longest-lived. */
export function livesOf(seen: Observations): Float64Array {
  const lives = new Float64Array(seen.spots);
  for (let k = 0; k < seen.first[seen.frames]; k++) lives[seen.spot[k]]++;
  const longest = lives.reduce((a, b) => Math.max(a, b), 1);
  return lives.map((n) => n / longest);
}

/**
 * Which spots move with the majority: the pair of spots whose similarity leaves the least median error on the others
 * (least median of squares over minimal sets, Rousseeuw 1984), each spot as a whole. Against a pair a, b a spot that
 * moves with it keeps its place (z - a) / (b - a), in complex numbers, on all frames. Spots that live shortly are judged,
 * and do not judge: for a few frames they might be the more.
 *
 * @returns 1 for a spot that agrees, or of which nothing can be told; null where there is no majority to agree with
 * Cost: pairs x spots x frames, each bounded but the spots.
 */
export function agreeing(seen: Observations): Uint8Array | null {
  const lives = livesOf(seen);
  const voters = Array.from(lives.keys()).filter((s) => lives[s] >= LONG_LIVED);
  if (voters.length < LEAST_SPOTS) return null;
  const places = placesOf(seen);
  let best: { errors: Float64Array; judged: number; score: number } | null = null;
  for (const [i, j] of pairs(voters.length)) {
    const [a, b] = [voters[i], voters[j]];
    const errors = errorsAgainst(places, a, b);
    const known = Float64Array.from(voters, (s) => errors[s])
      .filter((e) => !Number.isNaN(e))
      .sort();
    if (known.length < LEAST_SPOTS) continue;
    const score = known[Math.max(2, known.length >> 1)];
    const judged = known.length;
    if (best && judged < JUDGED * best.judged) continue;
    if (!best || judged * JUDGED > best.judged || score < best.score) best = { errors, judged, score };
  }
  if (!best) return null;
  const limit = Math.max(ALWAYS, TIMES * best.score);
  return Uint8Array.from(best.errors, (e) => (e > limit ? 0 : 1));
}

interface Places {
  readonly frames: number;
  /** Spot by spot, frame by frame; NaN where it was not seen. */
  readonly x: readonly Float64Array[];
  readonly y: readonly Float64Array[];
}

function placesOf(seen: Observations): Places {
  const telling: number[] = [];
  for (let f = 0; f < seen.frames; f++) if (seen.first[f + 1] - seen.first[f] > 2) telling.push(f);
  const stride = Math.max(1, Math.ceil(telling.length / MOST_FRAMES));
  const chosen = telling.filter((_, i) => i % stride === 0);
  const column = () => Array.from({ length: seen.spots }, () => new Float64Array(chosen.length).fill(NaN));
  const [x, y] = [column(), column()];
  chosen.forEach((f, i) => {
    for (let k = seen.first[f]; k < seen.first[f + 1]; k++) {
      x[seen.spot[k]][i] = seen.x[k];
      y[seen.spot[k]][i] = seen.y[k];
    }
  });
  return { frames: chosen.length, x, y };
}

function pairs(spots: number): [number, number][] {
  const all: [number, number][] = [];
  for (let a = 0; a < spots; a++) for (let b = a + 1; b < spots; b++) all.push([a, b]);
  const most = Math.max(LEAST_PAIRS, Math.floor(MOST_TRIALS / spots));
  const stride = all.length / most;
  return stride <= 1 ? all : Array.from({ length: most }, (_, i) => all[Math.floor((i + 0.5) * stride)]);
}

/** The median distance of each spot, in pixels, from where the pair puts it; NaN where they have too little in common. */
function errorsAgainst({ frames, x, y }: Places, a: number, b: number): Float64Array {
  const [u, v, length, sorted] = Array.from({ length: 4 }, () => new Float64Array(frames));
  const middle = (values: Float64Array, n: number) => {
    sorted.set(values.subarray(0, n));
    return medianSorted(sorted.subarray(0, n).sort());
  };
  return Float64Array.from(x, (_, s) => {
    if (s === a || s === b) return 0;
    let n = 0;
    for (let i = 0; i < frames; i++) {
      const [dx, dy] = [x[b][i] - x[a][i], y[b][i] - y[a][i]];
      const [sx, sy] = [x[s][i] - x[a][i], y[s][i] - y[a][i]];
      const square = dx * dx + dy * dy;
      if (!(square > 1) || Number.isNaN(sx)) continue;
      u[n] = (sx * dx + sy * dy) / square;
      v[n] = (sy * dx - sx * dy) / square;
      length[n++] = Math.sqrt(square);
    }
    if (n < LEAST_FRAMES) return NaN;
    const [mu, mv] = [middle(u, n), middle(v, n)];
    for (let i = 0; i < n; i++) u[i] = Math.hypot(u[i] - mu, v[i] - mv) * length[i];
    return middle(u, n);
  });
}
