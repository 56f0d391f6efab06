import { apply, invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import { EMPTY_TRACK, withSamples, type Track } from '../track/track.js';
import type { PlanSpot } from '../plan/plan.js';
import type { Role } from '../solve/motion.js';
import { normal, randomNumbers } from './footage.js';

const CENTRE = { x: 640, y: 360 };

/** A shaking camera: every frame a similarity of its own about the middle of 1280 x 720. */
export function shakes(frames: number, seed: number): Matrix3[] {
  const random = randomNumbers(seed);
  return Array.from({ length: frames }, () =>
    composeSimilarity(
      {
        x: 8 * normal(random),
        y: 6 * normal(random),
        rotation: 0.02 * normal(random),
        logScale: 0.01 * normal(random),
      },
      CENTRE,
    ),
  );
}

/** What an exact tracker makes of a place of the scene, on the frames on which it is there. */
export function trackOf(
  motion: readonly Matrix3[],
  x: number,
  y: number,
  present = (_frame: number) => true,
): Track {
  return withSamples(
    EMPTY_TRACK,
    motion.flatMap((m, frame) =>
      present(frame) ? [{ frame, ...apply(m, x, y), confidence: 1, state: 'tracked' as const }] : [],
    ),
  );
}

/** The same with an error of this deviation, in pixels, on every sample. */
export function noisy(track: Track, deviation: number, random: () => number): Track {
  const shaken = (v: number) => v + deviation * normal(random);
  const { values } = track;
  return { ...track, values: { ...values, x: values.x.map(shaken), y: values.y.map(shaken) } };
}

/** Motion relative to a frame: what the solver should find. */
export function relativeTo(motion: readonly Matrix3[], ref: number): Matrix3[] {
  const back = invert(motion[ref]);
  return motion.map((m) => multiply(m, back));
}

/** The farthest that two maps take a corner of 1280 x 720 apart, in pixels. */
export function farthest(a: Matrix3, b: Matrix3): number {
  const corners = [0, 1280].flatMap((x) => [0, 720].map((y) => [x, y] as const));
  return Math.max(
    ...corners.map(([x, y]) => {
      const p = apply(a, x, y);
      const q = apply(b, x, y);
      return Math.hypot(p.x - q.x, p.y - q.y);
    }),
  );
}

/** Tracks as spots to solve from: their ids are their places in the list, their names and roles as given. */
export function asSpots(
  tracks: readonly Track[],
  {
    names,
    movers,
    roles,
  }: { names?: readonly string[]; movers?: readonly string[]; roles?: readonly Role[] } = {},
): PlanSpot[] {
  return tracks.map((track, i) => ({
    id: String(i),
    name: names?.[i] ?? String(i),
    mover: movers?.[i] ?? '',
    track,
    role: roles?.[i] ?? 'both',
  }));
}
