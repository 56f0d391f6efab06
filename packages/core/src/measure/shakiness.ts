import { apply, IDENTITY, invert, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import { robustSimilarity } from '../geometry/robust-similarity.js';
import type { Correspondence } from '../geometry/similarity.js';
import { PLAIN_EYE } from '../picture/eye.js';
import type { Plane } from '../picture/plane.js';
import { Pyramid } from '../picture/pyramid.js';
import { cameraShake } from './camera-shake.js';
import { SpotTracker, type SpotSettings } from '../track/spot-tracker.js';

const COLUMNS = 6;
const ROWS = 4;
const SETTINGS: SpotSettings = {
  patch: [12, 12],
  reach: [24, 20],
  eye: PLAIN_EYE,
  allow: 'shift',
  refresh: 'never',
  lowMatch: 'stop',
  minConfidence: 0.5,
};
/** A key picture serves for so many frames ... */
const KEY_FOR = 12;
/** ... and no longer than this part of its patches is found again. */
const KEY_SHARE = 0.6;
/** Patches usually lie within this of where the last motion had them, in pixels: beyond five times that is none. */
const USUAL_STEP = 6;
/** All of a clip's first frames are looked at; of what follows the beginning of each stretch: it shakes as the rest does. */
const [FIRST, STRETCH, LOOKED_AT] = [300, 1500, 100];

/**
 * How shaky a clip is, frame by frame: the motion of the whole picture from a key picture to each frame is a robust
 * similarity over a grid of patches; the path less its own smoothed course is the shake. A long clip is looked at in
 * stretches.
 */
export class ShakinessMeter {
  /** Of each stretch that is looked at. */
  private readonly paths: Matrix3[][] = [[]];
  private frames = 0;
  private key: { readonly grid: PatchGrid; readonly motion: Matrix3; readonly frame: number } | null = null;
  private last: { readonly picture: Pyramid; readonly motion: Matrix3 } | null = null;

  /** Takes the next frame: luma at a reduced size (about 480 wide does), the same for all frames. */
  add(luma: Plane): void {
    const beyond = this.frames++ - FIRST;
    if (beyond >= 0 && beyond % STRETCH >= LOOKED_AT) return;
    if (beyond >= 0 && beyond % STRETCH === 0) {
      this.paths.push([]);
      [this.key, this.last] = [null, null];
    }
    const path = this.paths[this.paths.length - 1];
    const picture = new Pyramid(luma, 4);
    const frame = path.length;
    const { motion, share } = this.lay(picture, frame);
    path.push(motion);
    this.last = { picture, motion };
    if (!this.key || share < KEY_SHARE || frame - this.key.frame >= KEY_FOR) this.takeKey(frame);
  }

  private lay(picture: Pyramid, frame: number): { readonly motion: Matrix3; readonly share: number } {
    const { key, last } = this;
    if (!key || !last) return { motion: IDENTITY, share: 0 };
    const found = key.grid.motionTo(picture, multiply(last.motion, invert(key.motion)), USUAL_STEP);
    if (found) return { motion: multiply(found.matrix, key.motion), share: found.share };
    if (key.frame === frame - 1) return { motion: last.motion, share: 0 };
    // The key picture is too far away by now: the one before may still do.
    this.takeKey(frame - 1);
    return this.lay(picture, frame);
  }

  private takeKey(frame: number): void {
    const { picture, motion } = this.last!;
    const { width, height } = picture.levels[0];
    this.key = { grid: new PatchGrid(picture, gridOver(0, 0, width, height)), motion, frame };
  }

  /**
   * Root mean square distance, in pixels of the planes given, of four points well inside the picture from
   * their smoothed course. 0 for fewer than three frames.
   *
   * @param fps  frames a second, the average where it varies
   */
  result(fps: number): number {
    return this.last ? cameraShake(this.paths, this.last.picture.levels[0], fps) : 0;
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
   * @param guess   about where the patches will be
   * @param spread  how far from it they usually are, in pixels; Infinity where that is not known
   * @returns null when too few are found again; `share` is that of the patches that were
   */
  motionTo(
    picture: Pyramid,
    guess: Matrix3,
    spread = Infinity,
  ): { readonly matrix: Matrix3; readonly share: number } | null {
    const pairs: Correspondence[] = [];
    for (const { at, tracker } of this.patches) {
      const near = apply(guess, at.x, at.y);
      const found = this.find(tracker, picture, near, spread);
      if (found) pairs.push({ fromX: at.x, fromY: at.y, toX: found.x, toY: found.y, weight: 1 });
    }
    const matrix = robustSimilarity(pairs);
    return matrix && { matrix, share: pairs.length / this.patches.length };
  }

  private find(tracker: SpotTracker, picture: Pyramid, near: Point, spread: number): Point | null {
    try {
      const found = tracker.find(picture, { ...near, grow: 1, lost: false, spread });
      return found && found.confidence >= SETTINGS.minConfidence ? found : null;
    } catch {
      return null;
    }
  }
}
