import { medianSorted } from '../numbers.js';
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

/** A sample this far off, in pixels, counts for a quarter; while the motion is first walked, four times as far. */
const CUT = 1;
const WALKING_CUT = 4;
/** Frames that a new track's place of rest is averaged over while the motion is first walked. */
const FIRST_FRAMES = 10;

/**
 * The motion that some tracks have in common: walked along the frames, each new track placed by the frames that it
 * comes in on, then places and similarities bettered in turn under Geman and McClure's weights.
 *
 * @param rounds  how often they are bettered
 * Cost: samples x rounds.
 */
export function commonMotion(
  tracks: SceneTracks,
  members: ArrayLike<number>,
  from: number,
  to: number,
  rounds = 2,
): CommonMotion {
  const fit = new Fit(tracks, members, from, to);
  fit.walk();
  for (let round = 0; round < rounds; round++) fit.better();
  return fit.motion;
}

/** Samples by frames, in columns, with what is fitted to them. */
class Fit {
  readonly motion: CommonMotion;
  /** Samples of frame f lie at `first[f]` to `first[f + 1] - 1`. */
  private readonly first: Int32Array;
  private readonly member: Int32Array;
  private readonly x: Float64Array;
  private readonly y: Float64Array;
  private readonly trust: Float64Array;
  private readonly weight: Float64Array;
  /** Where each member rests; NaN until it is placed. */
  private readonly restX: Float64Array;
  private readonly restY: Float64Array;

  constructor(tracks: SceneTracks, members: ArrayLike<number>, from: number, to: number) {
    const length = to - from + 1;
    const column = (n = length) => new Float64Array(n);
    this.motion = {
      ...{ from, to, ax: column().fill(1), ay: column(), tx: column(), ty: column() },
      support: new Int32Array(length),
    };
    const { start, first: own, confidence } = tracks;
    const first = new Int32Array(length + 1);
    for (let m = 0; m < members.length; m++) {
      const k = members[m];
      const end = Math.min(to + 1, trackEnd(tracks, k));
      for (let f = Math.max(from, start[k]); f < end; f++)
        if (confidence[own[k] + f - start[k]] > 0) first[f - from + 1]++;
    }
    for (let f = 0; f < length; f++) first[f + 1] += first[f];
    const count = first[length];
    this.first = first;
    this.member = new Int32Array(count);
    [this.x, this.y, this.trust, this.weight] = [column(count), column(count), column(count), column(count)];
    const next = first.slice();
    for (let m = 0; m < members.length; m++) {
      const k = members[m];
      const end = Math.min(to + 1, trackEnd(tracks, k));
      for (let f = Math.max(from, start[k]); f < end; f++) {
        const at = own[k] + f - start[k];
        if (!(confidence[at] > 0)) continue;
        const p = next[f - from]++;
        this.member[p] = m;
        this.x[p] = tracks.x[at];
        this.y[p] = tracks.y[at];
        this.trust[p] = confidence[at];
      }
    }
    this.restX = column(members.length).fill(NaN);
    this.restY = column(members.length).fill(NaN);
  }

  walk(): void {
    const { first, member, restX, restY, motion } = this;
    const counts = new Int32Array(restX.length);
    const sumX = new Float64Array(restX.length);
    const sumY = new Float64Array(restX.length);
    for (let f = 0; f + 1 < first.length; f++) {
      this.fitFrame(f, WALKING_CUT);
      for (let p = first[f]; p < first[f + 1]; p++) {
        const m = member[p];
        if (counts[m] >= FIRST_FRAMES) continue;
        const [x, y] = backTo(motion, f, this.x[p], this.y[p]);
        counts[m]++;
        sumX[m] += x;
        sumY[m] += y;
        restX[m] = sumX[m] / counts[m];
        restY[m] = sumY[m] / counts[m];
      }
    }
  }

  /** Every member rests where its samples, taken back, are on average; then every frame is fitted anew. */
  better(): void {
    const { first, member, restX, restY, motion, trust } = this;
    const n = restX.length;
    const [w, sumX, sumY] = [new Float64Array(n), new Float64Array(n), new Float64Array(n)];
    for (let f = 0; f + 1 < first.length; f++) {
      for (let p = first[f]; p < first[f + 1]; p++) {
        const m = member[p];
        const [x, y] = backTo(motion, f, this.x[p], this.y[p]);
        const g = CUT ** 2 / (CUT ** 2 + (x - restX[m]) ** 2 + (y - restY[m]) ** 2);
        const v = trust[p] * g * g;
        w[m] += v;
        sumX[m] += v * x;
        sumY[m] += v * y;
      }
    }
    for (let m = 0; m < n; m++) {
      if (w[m] === 0) continue;
      restX[m] = sumX[m] / w[m];
      restY[m] = sumY[m] / w[m];
    }
    for (let f = 0; f + 1 < first.length; f++) this.fitFrame(f, CUT);
  }

  /** The similarity of one frame, under weights from the one before it. */
  private fitFrame(f: number, cut: number): void {
    const { ax, ay, tx, ty, support } = this.motion;
    const { first, member, restX, restY, trust, weight, x, y } = this;
    if (f > 0 && support[f] === 0)
      [ax[f], ay[f], tx[f], ty[f]] = [ax[f - 1], ay[f - 1], tx[f - 1], ty[f - 1]];
    let known = 0;
    for (let p = first[f]; p < first[f + 1]; p++) {
      const placed = restX[member[p]] === restX[member[p]];
      weight[p] = placed ? trust[p] : 0;
      if (placed) known++;
    }
    support[f] = known;
    if (known < 2) return;
    const c = cut * cut;
    for (let pass = 0; pass < 3; pass++) {
      let [w, rx, ry, zx, zy] = [0, 0, 0, 0, 0];
      for (let p = first[f]; p < first[f + 1]; p++) {
        if (weight[p] === 0) continue;
        const m = member[p];
        if (pass > 0) {
          const ex = ax[f] * restX[m] - ay[f] * restY[m] + tx[f] - x[p];
          const ey = ax[f] * restY[m] + ay[f] * restX[m] + ty[f] - y[p];
          const g = c / (c + ex * ex + ey * ey);
          weight[p] = Math.max(1e-12, trust[p] * g * g);
        }
        const v = weight[p];
        w += v;
        rx += v * restX[m];
        ry += v * restY[m];
        zx += v * x[p];
        zy += v * y[p];
      }
      rx /= w;
      ry /= w;
      zx /= w;
      zy /= w;
      let [re, im, spread] = [0, 0, 0];
      for (let p = first[f]; p < first[f + 1]; p++) {
        const v = weight[p];
        if (v === 0) continue;
        const m = member[p];
        const px = restX[m] - rx;
        const py = restY[m] - ry;
        const qx = x[p] - zx;
        const qy = y[p] - zy;
        re += v * (px * qx + py * qy);
        im += v * (px * qy - py * qx);
        spread += v * (px * px + py * py);
      }
      if (spread > 1e-6 * w) {
        ax[f] = re / spread;
        ay[f] = im / spread;
      }
      tx[f] = zx - (ax[f] * rx - ay[f] * ry);
      ty[f] = zy - (ax[f] * ry + ay[f] * rx);
    }
  }
}

/** Where a place of a frame rests. @param f  counted from the motion's first frame */
export function backTo({ ax, ay, tx, ty }: CommonMotion, f: number, x: number, y: number): [number, number] {
  const [qx, qy] = [x - tx[f], y - ty[f]];
  const norm = ax[f] * ax[f] + ay[f] * ay[f];
  return [(ax[f] * qx + ay[f] * qy) / norm, (ax[f] * qy - ay[f] * qx) / norm];
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

const middle = (values: readonly number[]) => medianSorted(Float64Array.from(values).sort());
