import { apply, IDENTITY, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import { robustSimilarity } from '../geometry/robust-similarity.js';
import type { Correspondence } from '../geometry/similarity.js';
import { PLAIN_EYE } from '../picture/eye.js';
import type { Plane } from '../picture/plane.js';
import { Pyramid } from '../picture/pyramid.js';
import { smoothGaussian } from '../smooth/gaussian.js';
import { SpotTracker, type SpotSettings } from '../track/spot-tracker.js';

const COLUMNS = 6;
const ROWS = 4;
const SETTINGS: SpotSettings = {
  patch: [9, 9],
  reach: [24, 20],
  eye: PLAIN_EYE,
  allow: 'shift',
  refresh: 'never',
  lowMatch: 'stop',
  minConfidence: 0.5,
};
/** Motion slower than this is meant, faster is shake: sigma of the smoothing, in seconds. */
const SMOOTHING_S = 0.35;

/**
 * How shaky a clip is, frame by frame: the motion of the whole picture from each frame to the next is a robust
 * similarity over a grid of patches; the path it adds up to, less its own smoothed course, is the shake.
 */
export class ShakinessMeter {
  private previous: Pyramid | null = null;
  private readonly steps: Matrix3[] = [];

  /** Takes the next frame: luma at a reduced size (about 480 wide does), the same for all frames. */
  add(luma: Plane): void {
    const picture = new Pyramid(luma, 4);
    if (this.previous) this.steps.push(motionBetween(this.previous, picture));
    this.previous = picture;
  }

  /**
   * Root mean square distance, in pixels of the planes given, of four points well inside the picture from
   * their smoothed course. 0 for fewer than three frames.
   *
   * @param fps  frames a second, the average where it varies
   */
  result(fps: number): number {
    if (!this.previous || this.steps.length < 2) return 0;
    const { width: w, height: h } = this.previous.levels[0];
    const matrices: Matrix3[] = [IDENTITY];
    for (const step of this.steps) matrices.push(multiply(step, matrices[matrices.length - 1]));
    const points: Point[] = [0.25, 0.75].flatMap((u) => [0.25, 0.75].map((v) => ({ x: u * w, y: v * h })));
    let sum = 0;
    for (const p of points) {
      const path = matrices.map((m) => apply(m, p.x, p.y));
      for (const axis of ['x', 'y'] as const) {
        const values = path.map((q) => q[axis]);
        const smooth = smoothGaussian(values, SMOOTHING_S * fps);
        values.forEach((v, i) => (sum += (v - smooth[i]) ** 2));
      }
    }
    return Math.sqrt(sum / (points.length * matrices.length));
  }
}

/** The similarity that most patches of a grid agree on, from one picture to the next. */
export function motionBetween(from: Pyramid, to: Pyramid): Matrix3 {
  const { width, height } = from.levels[0];
  return new PatchGrid(from, gridOver(0, 0, width, height)).motionTo(to, IDENTITY)?.matrix ?? IDENTITY;
}

/** Middles of the cells of a grid over a rectangle. */
export function gridOver(x: number, y: number, width: number, height: number): Point[] {
  return Array.from({ length: COLUMNS * ROWS }, (_, k) => ({
    x: x + (((k % COLUMNS) + 0.5) / COLUMNS) * width,
    y: y + ((Math.floor(k / COLUMNS) + 0.5) / ROWS) * height,
  }));
}

/** Patches of a picture by which others are laid onto it. */
export class PatchGrid {
  private readonly patches: { readonly at: Point; readonly tracker: SpotTracker }[] = [];

  /** @param reach  how far a patch may lie from where it is looked for, in pixels */
  constructor(picture: Pyramid, places: readonly Point[], reach = SETTINGS.reach) {
    for (const at of places) {
      try {
        this.patches.push({ at, tracker: new SpotTracker({ ...SETTINGS, reach }, picture, at.x, at.y) });
      } catch {
        // nothing to hold on to there
      }
    }
  }

  /**
   * The similarity from this picture to another that most patches agree on.
   *
   * @param guess  about where the patches will be
   * @returns null when too few are found again; `share` is that of the patches that were
   */
  motionTo(picture: Pyramid, guess: Matrix3): { readonly matrix: Matrix3; readonly share: number } | null {
    const pairs: Correspondence[] = [];
    for (const { at, tracker } of this.patches) {
      const near = apply(guess, at.x, at.y);
      const found = this.find(tracker, picture, near);
      if (found) pairs.push({ fromX: at.x, fromY: at.y, toX: found.x, toY: found.y, weight: 1 });
    }
    const matrix = robustSimilarity(pairs);
    return matrix && { matrix, share: pairs.length / this.patches.length };
  }

  private find(tracker: SpotTracker, picture: Pyramid, near: Point): Point | null {
    try {
      const found = tracker.find(picture, { ...near, grow: 1, lost: false, spread: Infinity });
      return found && found.confidence >= SETTINGS.minConfidence ? found : null;
    } catch {
      return null;
    }
  }
}
