import { apply, invert, type Matrix3, type Point } from '../geometry/matrix.js';
import { composeSimilarity, type SimilarityParts } from '../geometry/similarity.js';
import { medianSorted } from '../numbers.js';
import { movedTracks, partsOf, sampleIndex, trackEnd, type SceneTracks } from '../scene/scene-tracks.js';
import type { WholeScene } from '../scene/movers.js';
import { motionMatrix, type Motion } from './motion.js';
import { sceneMotion } from './scene-motion.js';

/** How a camera reads its pictures out, found from how they shear when it shakes. */
export interface Readout {
  /**
   * The time that a picture takes from its first row to its last, as a share of the time from frame to frame; negative
   * where it is read from the bottom up.
   */
  readonly share: number;
  /** True where the picture was turned upright by a quarter: what were rows are columns now. */
  readonly sideways: boolean;
  /** What the features of the surroundings are off their places by, as they are and with the rows put straight, in pixels. */
  readonly before: number;
  readonly after: number;
}

export interface PictureSize {
  readonly width: number;
  readonly height: number;
  readonly pixelAspect: number;
  /** The picture was turned upright by a quarter. */
  readonly sideways?: boolean;
}

/** What tells how rows lie, plain as it goes from worker to page. */
export interface RowsFacts {
  /** Motion of the surroundings, of whole pictures. */
  readonly camera: Pick<Motion<'similarity'>, 'parts' | 'pivot' | 'pixelAspect'>;
  /** {@link Readout.share} */
  readonly share: number;
  readonly size: PictureSize;
  readonly cuts: readonly number[];
}

/** Rounds in which the way back through the rows settles: each leaves the part of a pixel that a row moves in its own time. */
const SETTLING = 3;

/**
 * Where things are seen in a picture that is read out row by row while the camera moves, against where they would be had
 * all of it been taken at its middle (Forssén and Ringaby 2010, "Rectifying rolling shutter video from hand-held
 * devices"; here the camera's motion is a similarity, between frames on a spline through its parts).
 */
export class Rows {
  private readonly slopes: Readonly<Record<keyof SimilarityParts, Float64Array>>;
  private readonly startOf: Int32Array;
  private readonly endOf: Int32Array;

  constructor(readonly facts: RowsFacts) {
    const { camera, cuts } = facts;
    const frames = camera.parts.length;
    this.startOf = new Int32Array(frames);
    this.endOf = new Int32Array(frames);
    const parts = partsOf({ frames, cuts: Int32Array.from(cuts) });
    for (const { from, to } of parts) {
      this.startOf.fill(from, from, to + 1);
      this.endOf.fill(to, from, to + 1);
    }
    const slopesOf = (key: keyof SimilarityParts) => {
      const slopes = new Float64Array(frames);
      for (const { from, to } of parts)
        slopes.set(splineSlopes(camera.parts.slice(from, to + 1).map((p) => p[key])), from);
      return slopes;
    };
    this.slopes = {
      ...{ x: slopesOf('x'), y: slopesOf('y') },
      ...{ rotation: slopesOf('rotation'), logScale: slopesOf('logScale') },
    };
  }

  /** When a place is read, in frames from the picture's middle. */
  lag({ x, y }: Point): number {
    const { share, size } = this.facts;
    const { width, height, sideways } = size;
    return share * (sideways ? x / width - 0.5 : y / height - 0.5);
  }

  /** From where it is seen on a frame to where it would be had the picture been taken at once. */
  straight(frame: number, at: Point): Point {
    return this.moved(frame, this.lag(at), 0, at);
  }

  /** From where it would be had the picture been taken at once to where it is seen. */
  asShot(frame: number, at: Point): Point {
    let seen = at;
    for (let k = 0; k < SETTLING; k++) seen = this.moved(frame, 0, this.lag(seen), at);
    return seen;
  }

  /** How fast a place moves on a frame, in pixels a frame. */
  speed(frame: number, at: Point): Point {
    const [a, b] = [this.moved(frame, 0, -0.5, at), this.moved(frame, 0, 0.5, at)];
    return { x: b.x - a.x, y: b.y - a.y };
  }

  /** Where something is at a time that is at a place at another, both in frames from a frame's middle. */
  private moved(frame: number, from: number, to: number, { x, y }: Point): Point {
    const home = apply(invert(this.matrix(frame, from)), x, y);
    return apply(this.matrix(frame, to), home.x, home.y);
  }

  private matrix(frame: number, by: number): Matrix3 {
    const { pivot, pixelAspect } = this.facts.camera;
    return composeSimilarity(this.partsAt(frame, by), pivot, pixelAspect);
  }

  /** The parts between frames, on the spline; straight on beyond a part's ends. */
  private partsAt(frame: number, by: number): SimilarityParts {
    const { parts } = this.facts.camera;
    const [first, last] = [this.startOf[frame], this.endOf[frame]];
    if (by === 0 || first === last) return parts[frame];
    const at = Math.min(last - 1, Math.max(first, Math.floor(frame + by)));
    const t = frame + by - at;
    const of = (key: keyof SimilarityParts) => {
      const [p, q] = [parts[at][key], parts[at + 1][key]];
      const [m, n] = [this.slopes[key][at], this.slopes[key][at + 1]];
      if (t < 0) return p + t * m;
      if (t > 1) return q + (t - 1) * n;
      const d = q - p;
      return p + t * (m + t * (3 * d - 2 * m - n + t * (m + n - 2 * d)));
    };
    return { x: of('x'), y: of('y'), rotation: of('rotation'), logScale: of('logScale') };
  }
}

/**
 * Slopes of the natural cubic spline through values one apart (de Boor 1978, "A Practical Guide to Splines", chapter IV):
 * of all cubics the one that keeps quick shakes truest. Cost: linear, by forward elimination.
 */
function splineSlopes(values: readonly number[]): Float64Array {
  const n = values.length;
  const slopes = new Float64Array(n);
  if (n < 2) return slopes;
  const factor = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    const end = i === 0 || i === n - 1;
    const right = 3 * (values[Math.min(n - 1, i + 1)] - values[Math.max(0, i - 1)]);
    const weight = (end ? 2 : 4) - (i > 0 ? factor[i - 1] : 0);
    factor[i] = 1 / weight;
    slopes[i] = (right - (i > 0 ? slopes[i - 1] : 0)) / weight;
  }
  for (let i = n - 2; i >= 0; i--) slopes[i] -= factor[i] * slopes[i + 1];
  return slopes;
}

/** Tracks as they would be had every picture been taken at once. */
export function straightTracks(tracks: SceneTracks, rows: Rows): SceneTracks {
  return movedTracks(tracks, (frame, at) => rows.straight(frame, at));
}

/** Rounds of putting the tracks straight and solving anew. */
const ROUNDS = 5;
/** A readout shorter than this, or that betters what is off by less than this share, is none. */
const LEAST_SHARE = 0.08;
const LEAST_GAIN = 0.08;
/** Longer than from frame to frame no picture takes. */
const LONGEST = 1;
/** Tracks shorter than this tell nothing of how the picture shears. */
const SHORTEST = 8;
/** One number is as exact from so many tracks as from all. */
const ENOUGH = 120;
/** ... and that there is nothing to tell, from so many. */
const A_FEW = 30;

/**
 * Finds how long a picture takes to be read out: the one share at which the features of the surroundings agree best,
 * by linear least squares of what they are off on what each would be moved by, with what similarities and places of rest
 * can explain taken out of both; the tracks are put straight by it, and looked at again.
 *
 * @param motion  of the surroundings
 * @returns null where the pictures are taken at once, or the camera does not shake enough to tell
 */
export function findReadout(
  scene: WholeScene,
  motion: Motion<'similarity'>,
  size: PictureSize,
): Readout | null {
  const length = (k: number) => scene.tracks.first[k + 1] - scene.tracks.first[k];
  const members = Array.from(scene.moverOf.keys())
    .filter((k) => scene.moverOf[k] === 0 && length(k) >= SHORTEST)
    .sort((a, b) => length(b) - length(a))
    .slice(0, ENOUGH);
  const cuts = [...scene.tracks.cuts];
  let [share, tracks, camera] = [0, scene.tracks, motion];
  const whole = new Rows({ camera, share: 1, size, cuts });
  // Most pictures are taken at once, which a few tracks tell well enough.
  if (regress(tracks, members.slice(0, A_FEW), camera, whole).gain < LEAST_GAIN / 16) return null;
  const first = regress(tracks, members, camera, whole);
  let last = first;
  for (let round = 0; round < ROUNDS; round++) {
    if (!(Math.abs(last.step) > 1e-3)) break;
    if (round === 0 && (Math.abs(last.step) < LEAST_SHARE / 2 || last.gain < LEAST_GAIN / 4)) return null;
    share = Math.min(LONGEST, Math.max(-LONGEST, share + last.step));
    tracks = straightTracks(scene.tracks, new Rows({ camera, share, size, cuts }));
    camera = sceneMotion({ ...scene, tracks }, 0, camera.ref, size) ?? camera;
    last = regress(tracks, members, camera, new Rows({ camera, share: 1, size, cuts }));
  }
  const [before, after] = [first.off, last.off];
  if (Math.abs(share) < LEAST_SHARE || !(after < (1 - LEAST_GAIN) * before)) return null;
  return { share, sideways: size.sideways ?? false, before, after };
}

/** Times that similarities and places of rest are taken out of a field in turn. */
const TURNS = 3;
/** What is so many times as far off as the median is something else. */
const OUTLIER = 5;

/** @param rows  of a readout as long as from frame to frame: what it moves is what a whole share would */
function regress(
  tracks: SceneTracks,
  members: readonly number[],
  motion: Motion<'similarity'>,
  rows: Rows,
): { step: number; gain: number; off: number } {
  const samples: { f: number; m: number; p: Point; home: Point }[] = [];
  const frames = motion.parts.length;
  const matrices = motion.parts.map((_, f) => motionMatrix(motion, f));
  const backs = matrices.map(invert);
  members.forEach((k, m) => {
    const end = Math.min(frames, trackEnd(tracks, k));
    for (let f = tracks.start[k]; f < end; f++) {
      const at = sampleIndex(tracks, k, f);
      if (at < 0 || motion.support[f] !== 'full') continue;
      const p = { x: tracks.x[at], y: tracks.y[at] };
      samples.push({ f, m, p, home: apply(backs[f], p.x, p.y) });
    }
  });
  const field = () => ({ x: new Float64Array(samples.length), y: new Float64Array(samples.length) });
  const rests = meansBy(
    samples.map((s) => s.m),
    members.length,
    samples.map((s) => s.home),
  );
  const off = field();
  const moved = field();
  samples.forEach(({ f, m, p }, i) => {
    const rest = apply(matrices[f], rests[m].x, rests[m].y);
    off.x[i] = p.x - rest.x;
    off.y[i] = p.y - rest.y;
    const v = rows.speed(f, p);
    const lag = rows.lag(p);
    moved.x[i] = lag * v.x;
    moved.y[i] = lag * v.y;
  });
  const lengths = off.x.map((x, i) => Math.hypot(x, off.y[i]));
  const limit = OUTLIER * (medianSorted(lengths.slice().sort()) || 1e-6);
  const kept = samples.map((_, i) => i).filter((i) => lengths[i] <= limit);
  const byFrame: number[][] = Array.from({ length: frames }, () => []);
  for (const i of kept) byFrame[samples[i].f].push(i);
  for (const one of [off, moved]) {
    for (let turn = 0; turn < TURNS; turn++) {
      for (const list of byFrame) withoutSimilarity(list, samples, one);
      const means = meansBy(
        kept.map((i) => samples[i].m),
        members.length,
        kept.map((i) => ({ x: one.x[i], y: one.y[i] })),
      );
      for (const i of kept) {
        one.x[i] -= means[samples[i].m].x;
        one.y[i] -= means[samples[i].m].y;
      }
    }
  }
  let [em, mm, ee] = [0, 0, 0];
  for (const i of kept) {
    em += off.x[i] * moved.x[i] + off.y[i] * moved.y[i];
    mm += moved.x[i] ** 2 + moved.y[i] ** 2;
    ee += off.x[i] ** 2 + off.y[i] ** 2;
  }
  const step = mm > 0 ? em / mm : 0;
  return { step, gain: ee > 0 ? (step * em) / ee : 0, off: Math.sqrt(ee / Math.max(1, kept.length)) };
}

function meansBy(of: readonly number[], count: number, values: readonly Point[]): Point[] {
  const sums = Array.from({ length: count }, () => [0, 0, 0]);
  of.forEach((m, i) => {
    const s = sums[m];
    s[0]++;
    s[1] += values[i].x;
    s[2] += values[i].y;
  });
  return sums.map(([n, x, y]) => ({ x: n ? x / n : 0, y: n ? y / n : 0 }));
}

/** Takes the small similarity that explains most of a field on one frame out of it (least squares). */
function withoutSimilarity(
  list: readonly number[],
  samples: readonly { readonly p: Point }[],
  field: { readonly x: Float64Array; readonly y: Float64Array },
): void {
  const n = list.length;
  if (n === 0) return;
  let [px, py, fx, fy] = [0, 0, 0, 0];
  for (const i of list) {
    px += samples[i].p.x / n;
    py += samples[i].p.y / n;
    fx += field.x[i] / n;
    fy += field.y[i] / n;
  }
  let [a, b, spread] = [0, 0, 0];
  for (const i of list) {
    const [x, y] = [samples[i].p.x - px, samples[i].p.y - py];
    a += x * field.x[i] + y * field.y[i];
    b += x * field.y[i] - y * field.x[i];
    spread += x * x + y * y;
  }
  if (spread > 0) [a, b] = [a / spread, b / spread];
  for (const i of list) {
    const [x, y] = [samples[i].p.x - px, samples[i].p.y - py];
    field.x[i] -= fx + a * x - b * y;
    field.y[i] -= fy + a * y + b * x;
  }
}
