import { areaScale, IDENTITY, invert, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import { Pyramid } from '../picture/pyramid.js';
import { PictureGrip } from './shakiness.js';

/** Pictures are laid onto the same key picture while at least this share of its patches is found ... */
const FOUND_SHARE = 0.6;
/** ... and it has moved by no more than this share of the width, nor grown by more than that. */
const FARTHEST = 0.12;
const MOST_GROWTH = 0.05;

/** Patches are looked for this far from where the picture before has them, in pixels. */
const REACH: readonly [number, number] = [16, 14];

/**
 * The course of a film, measured on its pictures: each is laid onto a key picture, not onto the one before, so that
 * errors do not add up; a new key is chosen when the picture has moved on.
 */
export class PathMeter {
  private readonly path: Matrix3[] = [];
  private key: { readonly grip: PictureGrip; readonly motion: Matrix3 } | null = null;
  private last: {
    readonly picture: Pyramid;
    readonly motion: Matrix3;
    readonly places: readonly Point[];
  } | null = null;

  /**
   * Takes the next picture.
   *
   * @param places  where patches are taken if this picture becomes a key: on what is to be measured
   */
  add(luma: Plane, places: readonly Point[]): void {
    const picture = new Pyramid(luma, 4);
    const motion = this.last ? this.lay(picture, luma.width) : IDENTITY;
    this.key ??= { grip: new PictureGrip(picture, places, REACH), motion };
    this.path.push(motion);
    this.last = { picture, motion, places };
  }

  /** Matrices from the first picture to each; a picture that could not be laid keeps the place of the one before. */
  get matrices(): readonly Matrix3[] {
    return this.path;
  }

  private lay(picture: Pyramid, width: number): Matrix3 {
    const { key, last } = this;
    const guess = multiply(last!.motion, invert(key!.motion));
    const found = key!.grip.motionTo(picture, guess);
    if (found && found.share >= FOUND_SHARE) {
      const motion = multiply(found.matrix, key!.motion);
      const moved = Math.hypot(found.matrix[2], found.matrix[5]) > FARTHEST * width;
      if (moved || Math.abs(areaScale(found.matrix) - 1) > MOST_GROWTH) this.key = null;
      if (!this.key) this.renew(picture, motion);
      return motion;
    }
    const grip = new PictureGrip(last!.picture, last!.places, REACH);
    const step = grip.motionTo(picture, IDENTITY);
    this.key = { grip, motion: last!.motion };
    return multiply(step?.matrix ?? IDENTITY, last!.motion);
  }

  private renew(picture: Pyramid, motion: Matrix3): void {
    this.key = { grip: new PictureGrip(picture, this.last!.places, REACH), motion };
  }
}
