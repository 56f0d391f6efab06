import { areaScale, IDENTITY, invert, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import { Pyramid } from '../picture/pyramid.js';
import { PatchGrid } from './shakiness.js';

/** Pictures are laid onto the same key picture while at least this share of its patches is found ... */
const FOUND_SHARE = 0.6;
/** ... and it has moved by no more than this share of the width, nor grown by more than that. */
const FARTHEST = 0.12;
const MOST_GROWTH = 0.05;

/** Patches are looked for this far from where they are expected, in pixels. */
const REACH: readonly [number, number] = [16, 14];

interface Key {
  readonly grid: PatchGrid;
  /** From the first picture to this one: as measured, and as it was said to be. */
  readonly motion: Matrix3;
  readonly expected: Matrix3;
}

/**
 * The course of a film, measured on its pictures: each is laid onto a key picture, not onto the one before, so that
 * errors do not add up; a new key is chosen when the picture has moved on.
 */
export class PathMeter {
  private readonly path: (Matrix3 | null)[] = [];
  private key: Key | null = null;
  private last:
    | (Omit<Key, 'grid'> & { readonly picture: Pyramid; readonly places: readonly Point[] })
    | null = null;

  /**
   * Takes the next picture.
   *
   * @param places    where patches are taken if this picture becomes a key: on what is to be measured
   * @param expected  about how far it has moved since any one picture: only where patches are looked for
   */
  add(luma: Plane, places: readonly Point[], expected: Matrix3): void {
    const picture = new Pyramid(luma, 4);
    const motion = this.last ? this.lay(picture, luma.width, places, expected) : IDENTITY;
    this.path.push(motion);
    if (!motion) return;
    this.key ??= { grid: new PatchGrid(picture, places, REACH), motion, expected };
    this.last = { picture, motion, places, expected };
  }

  /** Passes over a picture in which what is measured is hidden. */
  skip(): void {
    this.path.push(null);
  }

  /** Matrices from the first picture to each; null where it was passed over or could not be laid. */
  get matrices(): readonly (Matrix3 | null)[] {
    return this.path;
  }

  private lay(picture: Pyramid, width: number, places: readonly Point[], expected: Matrix3): Matrix3 | null {
    const since = (from: Omit<Key, 'grid'>) => multiply(expected, invert(from.expected));
    const key = this.key!;
    const found = key.grid.motionTo(picture, since(key));
    if (found && found.share >= FOUND_SHARE) {
      const motion = multiply(found.matrix, key.motion);
      const moved = Math.hypot(found.matrix[2], found.matrix[5]) > FARTHEST * width;
      if (moved || Math.abs(areaScale(found.matrix) - 1) > MOST_GROWTH)
        this.key = { grid: new PatchGrid(picture, places, REACH), motion, expected };
      return motion;
    }
    const last = this.last!;
    const grid = new PatchGrid(last.picture, last.places, REACH);
    const step = grid.motionTo(picture, since(last));
    if (!step || step.share < FOUND_SHARE) return null;
    this.key = { grid, motion: last.motion, expected: last.expected };
    return multiply(step.matrix, last.motion);
  }
}
