import { sampleIndex, trackEnd, type SceneTracks } from './scene-tracks.js';

/**
 * One motion that tracks share: on each frame of a span the similarity z = a r + t (complex numbers) from where they
 * rest to where they are, and those places of rest.
 */
export interface CommonMotion {
  readonly from: number;
  readonly to: number;
  readonly ax: Float64Array;
  readonly ay: Float64Array;
  readonly tx: Float64Array;
  readonly ty: Float64Array;
  /** How many of the tracks tell of a frame; below two the frame before stands. */
  readonly support: Int32Array;
}

/** A sample this far off, in pixels, counts for a quarter. */
const CUT = 1;
const ROUNDS = 3;
/** Frames that a new track's place of rest is averaged over while the motion is first walked. */
const FIRST_FRAMES = 10;

/**
 * The motion that some tracks have in common: walked along the frames, each new track placed by the frames that it
 * comes in on, then places and similarities bettered in turn under Geman and McClure's weights.
 *
 * Cost: samples x rounds.
 */
export function commonMotion(
  tracks: SceneTracks,
  members: ArrayLike<number>,
  from: number,
  to: number,
): CommonMotion {
  const length = to - from + 1;
  const column = () => new Float64Array(length);
  const motion = {
    ...{ from, to, ax: column().fill(1), ay: column(), tx: column(), ty: column() },
    support: new Int32Array(length),
  };
  const byFrame = present(tracks, members, from, to);
  const count = members.length;
  const rests = { x: new Float64Array(count).fill(NaN), y: new Float64Array(count).fill(NaN) };
  walk(tracks, members, byFrame, motion, rests);
  for (let round = 1; round < ROUNDS; round++) {
    for (let m = 0; m < count; m++) placeRest(tracks, members[m], motion, rests, m);
    for (let f = 0; f < length; f++) fitFrame(tracks, members, byFrame, motion, rests, f, CUT);
  }
  return motion;
}

/** For each frame, which members have a sample on it. */
function present(tracks: SceneTracks, members: ArrayLike<number>, from: number, to: number): number[][] {
  const out: number[][] = Array.from({ length: to - from + 1 }, () => []);
  for (let m = 0; m < members.length; m++) {
    const k = members[m];
    const end = Math.min(to + 1, trackEnd(tracks, k));
    for (let f = Math.max(from, tracks.start[k]); f < end; f++)
      if (sampleIndex(tracks, k, f) >= 0) out[f - from].push(m);
  }
  return out;
}

interface Rests {
  readonly x: Float64Array;
  readonly y: Float64Array;
}

function walk(
  tracks: SceneTracks,
  members: ArrayLike<number>,
  byFrame: readonly number[][],
  motion: CommonMotion,
  rests: Rests,
): void {
  const counts = new Int32Array(members.length);
  const sums = { x: new Float64Array(members.length), y: new Float64Array(members.length) };
  byFrame.forEach((list, f) => {
    fitFrame(tracks, members, byFrame, motion, rests, f, 4 * CUT);
    for (const m of list) {
      if (counts[m] >= FIRST_FRAMES) continue;
      const at = sampleIndex(tracks, members[m], motion.from + f);
      const [x, y] = backTo(motion, f, tracks.x[at], tracks.y[at]);
      counts[m]++;
      sums.x[m] += x;
      sums.y[m] += y;
      rests.x[m] = sums.x[m] / counts[m];
      rests.y[m] = sums.y[m] / counts[m];
    }
  });
}

/** Where a place of a frame rests. @param f  counted from the motion's first frame */
export function backTo({ ax, ay, tx, ty }: CommonMotion, f: number, x: number, y: number): [number, number] {
  const [qx, qy] = [x - tx[f], y - ty[f]];
  const norm = ax[f] * ax[f] + ay[f] * ay[f];
  return [(ax[f] * qx + ay[f] * qy) / norm, (ax[f] * qy - ay[f] * qx) / norm];
}

function fitFrame(
  { x, y, confidence, ...tracks }: SceneTracks,
  members: ArrayLike<number>,
  byFrame: readonly number[][],
  motion: CommonMotion,
  rests: Rests,
  f: number,
  cut: number,
): void {
  const { ax, ay, tx, ty, support } = motion;
  if (f > 0 && support[f] === 0) [ax[f], ay[f], tx[f], ty[f]] = [ax[f - 1], ay[f - 1], tx[f - 1], ty[f - 1]];
  const known = byFrame[f].filter((m) => !Number.isNaN(rests.x[m]));
  support[f] = known.length;
  if (known.length < 2) return;
  const at = known.map((m) => tracks.first[members[m]] + motion.from + f - tracks.start[members[m]]);
  const weights = known.map((_, i) => confidence[at[i]]);
  for (let pass = 0; pass < 3; pass++) {
    if (pass > 0) {
      known.forEach((m, i) => {
        const ex = ax[f] * rests.x[m] - ay[f] * rests.y[m] + tx[f] - x[at[i]];
        const ey = ax[f] * rests.y[m] + ay[f] * rests.x[m] + ty[f] - y[at[i]];
        weights[i] = confidence[at[i]] * (cut ** 2 / (cut ** 2 + ex * ex + ey * ey)) ** 2;
      });
    }
    let [w, rx, ry, zx, zy] = [0, 0, 0, 0, 0];
    known.forEach((m, i) => {
      w += weights[i];
      rx += weights[i] * rests.x[m];
      ry += weights[i] * rests.y[m];
      zx += weights[i] * x[at[i]];
      zy += weights[i] * y[at[i]];
    });
    [rx, ry, zx, zy] = [rx / w, ry / w, zx / w, zy / w];
    let [re, im, spread] = [0, 0, 0];
    known.forEach((m, i) => {
      const [px, py] = [rests.x[m] - rx, rests.y[m] - ry];
      const [qx, qy] = [x[at[i]] - zx, y[at[i]] - zy];
      re += weights[i] * (px * qx + py * qy);
      im += weights[i] * (px * qy - py * qx);
      spread += weights[i] * (px * px + py * py);
    });
    if (spread > 1e-6 * w) {
      ax[f] = re / spread;
      ay[f] = im / spread;
    }
    tx[f] = zx - (ax[f] * rx - ay[f] * ry);
    ty[f] = zy - (ax[f] * ry + ay[f] * rx);
  }
}

/** A member rests where its samples, taken back, are on average; those that are far off count for less. */
function placeRest(tracks: SceneTracks, k: number, motion: CommonMotion, rests: Rests, m: number): void {
  const end = Math.min(motion.to + 1, trackEnd(tracks, k));
  let [w, sx, sy] = [0, 0, 0];
  for (let f = Math.max(motion.from, tracks.start[k]); f < end; f++) {
    const at = sampleIndex(tracks, k, f);
    if (at < 0) continue;
    const [x, y] = backTo(motion, f - motion.from, tracks.x[at], tracks.y[at]);
    const off = Number.isNaN(rests.x[m]) ? 0 : (x - rests.x[m]) ** 2 + (y - rests.y[m]) ** 2;
    const v = tracks.confidence[at] * (CUT ** 2 / (CUT ** 2 + off)) ** 2;
    w += v;
    sx += v * x;
    sy += v * y;
  }
  if (w === 0) return;
  rests.x[m] = sx / w;
  rests.y[m] = sy / w;
}

/** Frames on which a track's distance from a motion is looked at, at the most. */
const LOOKED_AT = 24;

/**
 * How far a track is from a motion: the median distance, in pixels, of its samples from where it would be if it rested
 * where most of them put it; NaN where the two have fewer than `least` frames in common.
 */
export function distanceFrom(tracks: SceneTracks, k: number, motion: CommonMotion, least: number): number {
  const begin = Math.max(motion.from, tracks.start[k]);
  const end = Math.min(motion.to + 1, trackEnd(tracks, k));
  const xs: number[] = [];
  const ys: number[] = [];
  const scales: number[] = [];
  const every = Math.max(1, Math.floor((end - begin) / LOOKED_AT));
  for (let f = begin; f < end; f += every) {
    const at = sampleIndex(tracks, k, f);
    const i = f - motion.from;
    if (at < 0 || motion.support[i] < 2) continue;
    const [x, y] = backTo(motion, i, tracks.x[at], tracks.y[at]);
    xs.push(x);
    ys.push(y);
    scales.push(Math.sqrt(motion.ax[i] ** 2 + motion.ay[i] ** 2));
  }
  if (xs.length * every < least || xs.length < 3) return NaN;
  const [mx, my] = [middle(xs), middle(ys)];
  return middle(xs.map((x, i) => scales[i] * Math.sqrt((x - mx) ** 2 + (ys[i] - my) ** 2)));
}

function middle(values: readonly number[]): number {
  const sorted = Float64Array.from(values).sort();
  const n = sorted.length;
  return (sorted[(n - 1) >> 1] + sorted[n >> 1]) / 2;
}
