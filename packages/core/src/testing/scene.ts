import { apply, invert, type Matrix3, type Point } from '../geometry/matrix.js';
import { gathered, type Growing, type SceneTracks } from '../scene/scene-tracks.js';
import { normal, randomNumbers } from './footage.js';

/** Something of a made-up scene: how it moves, and where its features are on its first frame. */
export interface SceneThing {
  /** From the first frame to each frame. */
  readonly motion: readonly Matrix3[];
  readonly places: readonly Point[];
  /** Frames on which its features are seen, both included; all when left out. */
  readonly seen?: readonly [number, number];
}

/** Tracks of the things of a scene, in their order, with noise. */
export function sceneTracks(
  things: readonly SceneThing[],
  { noise = 0.08, seed = 1, cuts = [] as readonly number[] } = {},
): SceneTracks {
  const random = randomNumbers(seed);
  const frames = things[0].motion.length;
  const list = things.flatMap(({ motion, places, seen = [0, frames - 1] }) =>
    places.map((p): Growing => {
      const [from, to] = seen;
      const at = Array.from({ length: to - from + 1 }, (_, i) => {
        const q = apply(motion[from + i], p.x, p.y);
        return { x: q.x + noise * normal(random), y: q.y + noise * normal(random) };
      });
      return { start: from, x: at.map((q) => q.x), y: at.map((q) => q.y), confidence: at.map(() => 0.9) };
    }),
  );
  return gathered(list, frames, cuts, [1, 1]);
}

/** Places on a grid over a rectangle, none of them where `not` says so. */
export function gridOfPlaces(
  [left, top, right, bottom]: readonly [number, number, number, number],
  columns: number,
  rows: number,
  not: (p: Point) => boolean = () => false,
): Point[] {
  return Array.from({ length: columns * rows }, (_, k) => ({
    x: left + (((k % columns) + 0.5) / columns) * (right - left),
    y: top + ((Math.floor(k / columns) + 0.5) / rows) * (bottom - top),
  })).filter((p) => !not(p));
}

/** How far two motions differ over a picture, in its pixels: root mean square over frames and nine places. */
export function differenceOver(
  a: readonly Matrix3[],
  b: readonly Matrix3[],
  { width, height }: { readonly width: number; readonly height: number },
): number {
  let [sum, n] = [0, 0];
  a.forEach((m, f) => {
    for (const u of [0.05, 0.5, 0.95]) {
      for (const v of [0.05, 0.5, 0.95]) {
        const p = apply(invert(m), u * width, v * height);
        const q = apply(invert(b[f]), u * width, v * height);
        sum += (p.x - q.x) ** 2 + (p.y - q.y) ** 2;
        n++;
      }
    }
  });
  return Math.sqrt(sum / n);
}
