import type { Warp } from '../../geometry/warp.js';
import { IDENTITY, type Matrix3, type Point } from '../../geometry/matrix.js';
import type { Motion } from '../../solve/motion.js';

/** What is done on frames on which it is not known where that is. */
export type Unknown = 'bridge' | 'hold' | 'fade' | 'off';

/** Where a layer is carried on a frame. */
export interface Carried {
  /** Places of its own frame to those of this one, as shot. */
  readonly m: Matrix3;
  /** The same where it bends, exactly, there and back; `m` is then how it goes about its middle. */
  readonly bent?: { readonly forth: Warp; readonly back: Warp };
  /** How much of it is shown, 0 to 1. */
  readonly share: number;
  /** How sure that is: the tracker's confidence, and 0 where nothing was measured. */
  readonly confidence: number;
}

/** How something is carried from its own frame to another. */
export interface Carrying {
  readonly own: number;
  readonly frame: number;
  readonly unknown: Unknown;
  /** Its middle, on its own frame: what it turns and grows about where it does not do both. */
  readonly middle: Point;
  /** Of movers, by their ids. */
  readonly motions: Readonly<Record<string, Motion>>;
}

/** Where the pixels of a scene are seen. */
export interface SceneView {
  /** To source pixels of a frame that stands where the scene's does: for what stays in the frame. */
  readonly asFrame: (own: number) => Warp;
  /** To source pixels of the scene's frame. */
  readonly toSource: Warp;
  /** A soft surface that is laid flat there, by its id: pixels of the scene to those of the frame that it lies flat as. */
  readonly flat?: { readonly id: string; readonly ref: number; readonly toFlat: Matrix3 } | null;
}

/** One kind of ride. A new one is a file with such a record, entered in `ride.ts`. */
export interface RideKind<R> {
  carry(ride: R, how: Carrying): Carried;
  /** Pixels of the scene to those from which it was carried: of the source unless said otherwise. */
  home?(view: SceneView, own: number): Warp;
  /** Pixels of the scene to those of its own frame, where that is known without carrying it there and back. */
  flat?(ride: R, view: SceneView, own: number): Warp | null;
  /** The same near a place, as an affine map the other way: its own frame's pixels to those of a frame that it lies flat as. */
  toFlat?(ride: R, own: number, ref: number, at: Point): Matrix3 | null;
}

/** What is carried where nothing is known. */
export function lost(unknown: Unknown): Carried {
  return { m: IDENTITY, share: unknown === 'off' || unknown === 'fade' ? 0 : 1, confidence: 0 };
}

/** Frames over which a layer fades out where its ride is not known, and in again. */
export const FADE = 8;

/** How much is shown of what is so many frames from where it is known. */
export function shareAway(unknown: Unknown, away: number): number {
  return unknown === 'off' ? 0 : unknown === 'fade' ? Math.max(0, 1 - away / (FADE + 1)) : 1;
}
