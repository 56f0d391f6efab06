import { bandedMatrix, factorise, solveFactorised } from '../geometry/banded.js';
import { apply, IDENTITY, invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import type { SceneTracks } from '../scene/scene-tracks.js';
import { observeTracks } from './scene-motion.js';

/** A sample with an error of so many pixels has a quarter of its weight (Geman and McClure 1987). */
const CUT = 1;
/** Scales of the weight: outliers are left out step by step (graduated non-convexity; Blake and Zisserman 1987). */
const NARROWING = [8, 4, 2, CUT];
/** Prior of the perspective part: its standard deviation at the picture's rim, in parts of half its width. */
const LOOSE = 0.05;
const UNKNOWNS = 8;
const LEAST_HOLD = 1e-9;

/** Frames, both included. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** Which of the tracks are used, by their index; all where null. */
type Only = ((member: number) => boolean) | null;

/** Samples of a part of the clip with their similarity removed, in halves of the picture's width from its middle. */
export class PerspectiveSamples {
  private readonly first: Int32Array;
  private readonly member: Int32Array;
  private readonly x: Float64Array;
  private readonly y: Float64Array;
  private readonly trust: Float64Array;
  private readonly unit: number;
  private readonly matrix = bandedMatrix(UNKNOWNS, UNKNOWNS - 1);
  private readonly right = new Float64Array(UNKNOWNS);
  private readonly sums = new Float64Array(27);

  constructor(
    tracks: SceneTracks,
    private readonly members: readonly number[],
    { from, to }: Stretch,
    matrices: readonly Matrix3[],
    private readonly size: { readonly width: number; readonly height: number },
  ) {
    this.unit = size.width / 2;
    const seen = observeTracks(tracks, members, from, to, 1);
    this.first = seen.first;
    this.member = seen.spot;
    this.trust = seen.weight;
    [this.x, this.y] = [seen.x, seen.y];
    for (let i = 0; i < seen.frames; i++) {
      const back = invert(matrices[from + i]);
      for (let k = seen.first[i]; k < seen.first[i + 1]; k++) {
        const at = apply(back, seen.x[k] + seen.originX, seen.y[k] + seen.originY);
        this.x[k] = (at.x - size.width / 2) / this.unit;
        this.y[k] = (at.y - size.height / 2) / this.unit;
      }
    }
  }

  get frames(): number {
    return this.first.length - 1;
  }

  /** True where every frame has so many of them, over so much of the picture's width and height. */
  tell(fewest: number, spread: number): boolean {
    const wide = (values: Float64Array, size: number) => {
      const sorted = values.slice().sort();
      const at = (share: number) => sorted[Math.floor(share * (sorted.length - 1))];
      return (at(0.97) - at(0.03)) * this.unit > spread * size;
    };
    for (let i = 0; i < this.frames; i++) {
      const [a, b] = [this.first[i], this.first[i + 1]];
      if (b - a < fewest) return false;
      if (!wide(this.x.subarray(a, b), this.size.width) || !wide(this.y.subarray(a, b), this.size.height))
        return false;
    }
    return true;
  }

  /** Error on one half of the tracks of a perspective that was fitted to the other half. */
  leftOut(
    half: number,
    only: (member: number) => boolean,
  ): { readonly with: number; readonly without: number } {
    const fitted = (m: number) => only(m) && m % 2 !== half;
    const judged = (m: number) => only(m) && m % 2 === half;
    const homographies = this.fitted(fitted);
    return { with: this.off(homographies, judged), without: this.off(null, judged) };
  }

  /** What was fitted, in pixels of the part's first frame. */
  inPixels(homographies: readonly Matrix3[]): Matrix3[] {
    const { width, height } = this.size;
    const toUnits: Matrix3 = [1 / this.unit, 0, -width / 2 / this.unit, 0, 1 / this.unit, -height / 2 / this.unit, 0, 0, 1]; // prettier-ignore
    const toPixels = invert(toUnits);
    return homographies.map((h) => multiply(toPixels, multiply(h, toUnits)));
  }

  /**
   * Homographies and scene points refined in turn: in halves of the width, against the first frame.
   *
   * @param start  an estimate to begin with; left out: what most of the tracks do from frame to frame
   */
  fitted(only: Only, start: readonly Matrix3[] = this.chained(only)): Matrix3[] {
    let homographies = start;
    for (const cut of NARROWING) {
      const { x, y } = this.scenePoints(homographies, only);
      homographies = homographies.map((homography, i) => this.frame(i, homography, x, y, only, cut));
      const home = invert(homographies[0]);
      homographies = homographies.map((homography) => multiply(homography, home));
    }
    return [...homographies];
  }

  /** Motion of most of the tracks from each frame to the next, chained. */
  private chained(only: Only): Matrix3[] {
    const homographies: Matrix3[] = [IDENTITY];
    const n = this.members.length;
    const [x, y] = [new Float64Array(n), new Float64Array(n)];
    const seenOn = new Int32Array(n).fill(-1);
    for (let i = 0; i < this.frames; i++) {
      const there = (m: number) => seenOn[m] === i - 1 && (!only || only(m));
      let step = IDENTITY;
      if (i > 0) {
        for (const cut of NARROWING) step = this.frame(i, step, x, y, there, cut);
        homographies.push(multiply(step, homographies[i - 1]));
      }
      for (let p = this.first[i]; p < this.first[i + 1]; p++) {
        const m = this.member[p];
        x[m] = this.x[p];
        y[m] = this.y[p];
        seenOn[m] = i;
      }
    }
    return homographies;
  }

  /** Scene point of each track: the mean of its samples, mapped back to the first frame. */
  private scenePoints(homographies: readonly Matrix3[] | null, only: Only) {
    const n = this.members.length;
    const [x, y, w] = [0, 1, 2].map(() => new Float64Array(n));
    for (let i = 0; i < this.frames; i++) {
      const [a, b, c, d, e, f, g, h, k] = homographies ? invert(homographies[i]) : IDENTITY;
      for (let p = this.first[i]; p < this.first[i + 1]; p++) {
        const m = this.member[p];
        if (only && !only(m)) continue;
        const px = this.x[p];
        const py = this.y[p];
        const trust = this.trust[p];
        const z = g * px + h * py + k;
        x[m] += (trust * (a * px + b * py + c)) / z;
        y[m] += (trust * (d * px + e * py + f)) / z;
        w[m] += trust;
      }
    }
    for (let m = 0; m < n; m++) {
      x[m] /= w[m];
      y[m] /= w[m];
    }
    return { x, y };
  }

  /**
   * The homography from scene points to one frame. It is near the identity, so that its eight numbers follow linearly
   * (Hartley and Zisserman 2004, 4.1).
   */
  private frame(
    i: number,
    now: Matrix3,
    pointX: Float64Array,
    pointY: Float64Array,
    only: Only,
    cut: number,
  ): Matrix3 {
    const sums = this.sums.fill(0);
    const quarter = (cut / this.unit) ** 2;
    const [h0, h1, h2, h3, h4, h5, h6, h7, h8] = now;
    for (let p = this.first[i]; p < this.first[i + 1]; p++) {
      const m = this.member[p];
      if (only && !only(m)) continue;
      const rx = pointX[m];
      const ry = pointY[m];
      const x = this.x[p];
      const y = this.y[p];
      const z = h6 * rx + h7 * ry + h8;
      const offX = (h0 * rx + h1 * ry + h2) / z - x;
      const offY = (h3 * rx + h4 * ry + h5) / z - y;
      const near = quarter / (quarter + offX * offX + offY * offY);
      const w = (this.trust[p] * near * near) / quarter;
      // The equations (rx, ry, 1, 0, 0, 0, -x rx, -x ry | x - rx) and (0, 0, 0, rx, ry, 1, -y rx, -y ry | y - ry).
      const wx = w * x;
      const wy = w * y;
      const wz = w * (x * x + y * y);
      const xx = rx * rx;
      const xy = rx * ry;
      const yy = ry * ry;
      const dx = x - rx;
      const dy = y - ry;
      sums[0] += w * xx;
      sums[1] += w * xy;
      sums[2] += w * yy;
      sums[3] += w * rx;
      sums[4] += w * ry;
      sums[5] += w;
      sums[6] += wx * xx;
      sums[7] += wx * xy;
      sums[8] += wx * yy;
      sums[9] += wx * rx;
      sums[10] += wx * ry;
      sums[11] += wy * xx;
      sums[12] += wy * xy;
      sums[13] += wy * yy;
      sums[14] += wy * rx;
      sums[15] += wy * ry;
      sums[16] += wz * xx;
      sums[17] += wz * xy;
      sums[18] += wz * yy;
      sums[19] += w * dx * rx;
      sums[20] += w * dx * ry;
      sums[21] += w * dx;
      sums[22] += w * dy * rx;
      sums[23] += w * dy * ry;
      sums[24] += w * dy;
      sums[25] += (wx * dx + wy * dy) * rx;
      sums[26] += (wx * dx + wy * dy) * ry;
    }
    return this.solved(sums);
  }

  /** The homography that solves the sums of {@link frame}. */
  private solved(s: Float64Array): Matrix3 {
    const { matrix, right } = this;
    matrix.data.fill(0);
    const put = (row: number, ...values: number[]) =>
      values.forEach((v, k) => (matrix.data[row * UNKNOWNS + k] = v));
    // Each row from its diagonal to the left.
    put(0, s[0]);
    put(1, s[2], s[1]);
    put(2, s[5], s[4], s[3]);
    put(3, s[0]);
    put(4, s[2], s[1]);
    put(5, s[5], s[4], s[3]);
    put(6, s[16], -s[14], -s[12], -s[11], -s[9], -s[7], -s[6]);
    put(7, s[18], s[17], -s[15], -s[13], -s[12], -s[10], -s[8], -s[7]);
    right.set([s[19], s[20], s[21], s[22], s[23], s[24], -s[25], -s[26]]);
    for (let k = 0; k < UNKNOWNS; k++) matrix.data[k * UNKNOWNS] += k < 6 ? LEAST_HOLD : 1 / LOOSE ** 2;
    factorise(matrix);
    solveFactorised(matrix, right);
    const [a, b, c, d, e, f, g, h] = right;
    return [1 + a, b, c, d, 1 + e, f, g, h, 1];
  }

  /** Squared distance of a sample from where a homography maps a scene point. */
  private squareOff(m: Matrix3, x: number, y: number, p: number): number {
    const z = m[6] * x + m[7] * y + m[8];
    const dx = (m[0] * x + m[1] * y + m[2]) / z - this.x[p];
    const dy = (m[3] * x + m[4] * y + m[5]) / z - this.y[p];
    return dx * dx + dy * dy;
  }

  /** Error of each track about its scene point, in pixels: root mean square; NaN of one without samples. */
  offEach(homographies: readonly Matrix3[]): Float64Array {
    const { x, y } = this.scenePoints(homographies, null);
    const [sum, n] = [0, 1].map(() => new Float64Array(this.members.length));
    for (let i = 0; i < this.frames; i++)
      for (let p = this.first[i]; p < this.first[i + 1]; p++) {
        const m = this.member[p];
        sum[m] += this.squareOff(homographies[i], x[m], y[m], p);
        n[m]++;
      }
    return sum.map((s, m) => this.unit * Math.sqrt(s / n[m]));
  }

  /** Error of tracks about their scene points, in pixels: root mean square under the robust weight. */
  off(homographies: readonly Matrix3[] | null, only: Only): number {
    const point = this.scenePoints(homographies, only);
    const cut = CUT * CUT;
    let [sum, all] = [0, 0];
    for (let i = 0; i < this.frames; i++) {
      const homography = homographies ? homographies[i] : IDENTITY;
      for (let p = this.first[i]; p < this.first[i + 1]; p++) {
        const m = this.member[p];
        if (only && !only(m)) continue;
        const square = this.squareOff(homography, point.x[m], point.y[m], p) * this.unit ** 2;
        const near = cut / (cut + square);
        const weight = this.trust[p] * near * near;
        sum += weight * square;
        all += weight;
      }
    }
    return all > 0 ? Math.sqrt(sum / all) : NaN;
  }
}
