import type { Size } from '../framing/framing.js';
import { IDENTITY, invert, multiply, translation, type Point } from '../geometry/matrix.js';
import { after, chained, matrixWarp, thenMatrix, type Warp } from '../geometry/warp.js';
import type { Motion } from '../solve/motion.js';
import { carry, flatHome, homeOf, type Ride } from './ride.js';
import type { Carried, SceneView, Unknown } from './rides/ride-kind.js';

/** Where things are seen on one frame. */
export interface Seen extends SceneView {
  readonly frame: number;
  readonly size: Size;
  readonly motions: Readonly<Record<string, Motion>>;
}

/** What rides, and from where. */
export interface Riding {
  readonly ride: Ride;
  /** The frame that it was made on. */
  readonly frame: number;
  readonly unknown: Unknown;
  /** Its middle, on its own frame. */
  readonly middle: Point;
}

/** Where something is carried to on the frame that is seen. */
export function carriedTo({ ride, frame: own, unknown, middle }: Riding, { frame, motions }: Seen): Carried {
  return carry(ride, { own, frame, unknown, middle, motions });
}

/** Pixels of the scene to those of a layer's own frame, on which it may be moved; null where it is turned over. */
export function toOwnOf(
  { ride, frame }: Pick<Riding, 'ride' | 'frame'>,
  { m, bent }: Pick<Carried, 'm' | 'bent'>,
  seen: Seen,
  { x, y }: Point = { x: 0, y: 0 },
): Warp | null {
  const flat = flatHome(ride, seen, frame);
  if (flat) return after(translation(-x, -y), flat);
  const home = homeOf(ride, seen, frame);
  if (bent) return after(translation(-x, -y), chained(home, bent.back));
  try {
    return thenMatrix(home, invert(multiply(m, translation(x, y))), seen.size);
  } catch {
    return null;
  }
}

/** Where what is seen through `toOwn` is on another frame. */
export function onTo(toOwn: Warp, { m, bent }: Pick<Carried, 'm' | 'bent'>, size: Size): Warp {
  return bent ? chained(toOwn, bent.forth) : thenMatrix(toOwn, m, size);
}

/** The matrix that leaves everything in its place. */
export const STAYS = matrixWarp(IDENTITY);
