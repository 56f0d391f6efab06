import { apply, type Matrix3, type Point } from '../geometry/matrix.js';
import { composeSimilarity, type SimilarityParts } from '../geometry/similarity.js';
import { STATES, measuredEnd } from '../track/measured.js';
import { type Track } from '../track/track.js';

/** Root mean square of each component: pixels, pixels, radians, natural log of scale. */
export type PartsRms = SimilarityParts;

export interface ShakeLeft {
  /** Root mean square distance of the spots from where they are wanted, in pixels, as shot. */
  readonly before: number;
  /** The same after the correction. */
  readonly after: number;
  /**
   * Distance per frame of the range, in pixels, as shot and after; NaN where no spot was measured. Where all is to stand as
   * on the reference frame, what is as shot is the distance from there: next to nothing on that frame.
   */
  readonly beforeByFrame: Float64Array;
  readonly afterByFrame: Float64Array;
  /** What the samples' own motion strays from the wanted one by, as shot and after. */
  readonly partsBefore: readonly (SimilarityParts | null)[];
  readonly partsAfter: readonly (SimilarityParts | null)[];
  readonly rmsBefore: PartsRms;
  readonly rmsAfter: PartsRms;
}

const COASTED = STATES.indexOf('coasted');

interface Held {
  readonly pivot: Point;
  readonly pixelAspect: number;
}

/** A spot on what is held, and where it rests in reference-frame coordinates. */
export interface ScenePointTrack {
  readonly rest: Point;
  readonly track: Track;
}

interface Corrected {
  readonly wanted: readonly SimilarityParts[];
  readonly corrections: readonly Matrix3[];
}

/**
 * How far spots stray from where they are wanted over frames `from` to `to`, before and after the correction. It is
 * measured on the corrected samples: their motion is found anew, not taken over from the solve. Each spot's mean
 * offset does not count: a place is not a shake.
 */
export function measureShakeLeft(
  { pivot, pixelAspect }: Held,
  spots: readonly ScenePointTrack[],
  { wanted, corrections }: Corrected,
  from: number,
  to: number,
): ShakeLeft {
  const length = Math.max(0, to - from + 1);
  const targets = wanted.slice(from, to + 1).map((p) => composeSimilarity(p, pivot, pixelAspect));
  const sides = [0, 1].map(() => new Side(length));
  const squaresShown = new Float64Array(length);
  const still = wanted.every(isNone);
  const counts = new Float64Array(length);
  const off = new Float64Array(4 * length);
  spots.forEach(({ rest: home, track }) => {
    const first = Math.max(from, track.start);
    const last = Math.min(to, measuredEnd(track) - 1);
    const mean = [0, 0, 0, 0];
    let n = 0;
    for (let f = first; f <= last; f++) {
      const k = f - track.start;
      if (!seenAt(track, k)) continue;
      const i = f - from;
      const t = apply(targets[i], home.x, home.y);
      const x = track.values.x[k];
      const y = track.values.y[k];
      const p = apply(corrections[f], x, y);
      const fx = (home.x - pivot.x) * pixelAspect;
      const fy = home.y - pivot.y;
      sides[0].add(i, fx, fy, (x - pivot.x) * pixelAspect, y - pivot.y);
      sides[1].add(i, fx, fy, (p.x - pivot.x) * pixelAspect, p.y - pivot.y);
      mean[0] += off[4 * i] = x - t.x;
      mean[1] += off[4 * i + 1] = y - t.y;
      mean[2] += off[4 * i + 2] = p.x - t.x;
      mean[3] += off[4 * i + 3] = p.y - t.y;
      counts[i]++;
      n++;
    }
    const [x0, y0] = still ? [0, 0] : [mean[0] / n, mean[1] / n];
    for (let f = first; f <= last; f++) {
      if (!seenAt(track, f - track.start)) continue;
      const i = f - from;
      squaresShown[i] += (off[4 * i] - x0) ** 2 + (off[4 * i + 1] - y0) ** 2;
      sides[0].squares[i] += (off[4 * i] - mean[0] / n) ** 2 + (off[4 * i + 1] - mean[1] / n) ** 2;
      sides[1].squares[i] += (off[4 * i + 2] - mean[2] / n) ** 2 + (off[4 * i + 3] - mean[3] / n) ** 2;
    }
  });
  const total = counts.reduce((a, b) => a + b, 0);
  const rms = (k: number) => Math.sqrt(sides[k].squares.reduce((a, b) => a + b, 0) / total);
  const byFrame = (squares: Float64Array) =>
    squares.map((v, i) => (counts[i] ? Math.sqrt(v / counts[i]) : NaN));
  const strays = (k: number) =>
    Array.from(counts, (_, i) => sides[k].stray(i, wanted[from + i], pixelAspect));
  const [partsBefore, partsAfter] = [strays(0), strays(1)];
  return {
    before: rms(0),
    after: rms(1),
    beforeByFrame: byFrame(squaresShown),
    afterByFrame: byFrame(sides[1].squares),
    partsBefore,
    partsAfter,
    rmsBefore: partsRms(partsBefore),
    rmsAfter: partsRms(partsAfter),
  };
}

const isNone = (parts: SimilarityParts) => Object.values(parts).every((v) => Math.abs(v) < 1e-9);

/** True for a sample that was seen or placed: what was predicted or interpolated is no evidence. */
function seenAt({ state }: Track, k: number): boolean {
  return state[k] > 0 && state[k] < COASTED;
}

/** Sums, frame by frame, from which the similarity of scene points to places follows; about the pivot. */
class Side {
  readonly squares: Float64Array;
  private readonly sums: Float64Array;

  constructor(length: number) {
    this.squares = new Float64Array(length);
    this.sums = new Float64Array(8 * length);
  }

  add(i: number, fx: number, fy: number, tx: number, ty: number): void {
    const { sums } = this;
    const k = 8 * i;
    sums[k]++;
    sums[k + 1] += fx;
    sums[k + 2] += fy;
    sums[k + 3] += tx;
    sums[k + 4] += ty;
    sums[k + 5] += fx * tx + fy * ty;
    sums[k + 6] += fx * ty - fy * tx;
    sums[k + 7] += fx * fx + fy * fy;
  }

  /** The samples' own motion less the wanted one; one sample tells position only. */
  stray(i: number, wanted: SimilarityParts, pixelAspect: number): SimilarityParts | null {
    const [n, sfx, sfy, stx, sty, sre, sim, square] = this.sums.subarray(8 * i, 8 * i + 8);
    if (n === 0) return null;
    const [fx, fy, tx, ty] = [sfx / n, sfy / n, stx / n, sty / n];
    const spread = square - n * (fx * fx + fy * fy);
    let re = Math.exp(wanted.logScale) * Math.cos(wanted.rotation);
    let im = Math.exp(wanted.logScale) * Math.sin(wanted.rotation);
    if (spread > 1e-6 * n) {
      re = (sre - n * (fx * tx + fy * ty)) / spread;
      im = (sim - n * (fx * ty - fy * tx)) / spread;
    }
    const turn = Math.atan2(im, re) - wanted.rotation;
    return {
      x: (tx - re * fx + im * fy) / pixelAspect - wanted.x,
      y: ty - re * fy - im * fx - wanted.y,
      rotation: Math.atan2(Math.sin(turn), Math.cos(turn)),
      logScale: Math.log(Math.hypot(re, im)) - wanted.logScale,
    };
  }
}

/** Root mean square about the mean, component by component; 0 without any. */
export function partsRms(parts: readonly (SimilarityParts | null)[]): PartsRms {
  const known = parts.filter((p): p is SimilarityParts => p !== null);
  const of = (key: keyof SimilarityParts) => {
    if (known.length === 0) return 0;
    const mean = known.reduce((s, p) => s + p[key], 0) / known.length;
    return Math.sqrt(known.reduce((s, p) => s + (p[key] - mean) ** 2, 0) / known.length);
  };
  return { x: of('x'), y: of('y'), rotation: of('rotation'), logScale: of('logScale') };
}
