import type { Matrix3, Point } from '../geometry/matrix.js';
import type { Warp } from '../geometry/warp.js';
import { FRAME_RIDE, type FrameRide } from './rides/kinds/frame-ride.js';
import { MOVER_RIDE, type MoverRide } from './rides/kinds/mover-ride.js';
import type { Carried, Carrying, RideKind, SceneView } from './rides/ride-kind.js';
import { SOFT_RIDE, type SoftRide } from './rides/kinds/soft-ride.js';
import { SPOT_RIDE, type SpotRide } from './rides/kinds/spot-ride.js';
import { SURFACE_RIDE, type SurfaceRide } from './rides/kinds/surface-ride.js';

/** What a layer rides on. */
export type Ride = FrameRide | SpotRide | MoverRide | SurfaceRide | SoftRide;

const RIDES: { readonly [K in Ride['on']]: RideKind<Extract<Ride, { on: K }>> } = {
  frame: FRAME_RIDE,
  spot: SPOT_RIDE,
  mover: MOVER_RIDE,
  surface: SURFACE_RIDE,
  soft: SOFT_RIDE,
};

const kindOf = ({ on }: Ride) => RIDES[on] as RideKind<Ride>;

/** Carries a layer from its own frame to another. */
export function carry(ride: Ride, how: Carrying): Carried {
  return kindOf(ride).carry(ride, how);
}

/** Pixels of a scene to those from which something was carried. */
export function homeOf(ride: Ride, view: SceneView, own: number): Warp {
  return kindOf(ride).home?.(view, own) ?? view.toSource;
}

/** Pixels of a scene to those of something's own frame, where they are known without carrying it; null elsewhere. */
export function flatHome(ride: Ride, view: SceneView, own: number): Warp | null {
  return kindOf(ride).flat?.(ride, view, own) ?? null;
}

/** A ride's own frame's pixels to those of the frame that it lies flat as, near a place; null where it does not lie flat. */
export function toFlat(ride: Ride, own: number, ref: number, at: Point): Matrix3 | null {
  return kindOf(ride).toFlat?.(ride, own, ref, at) ?? null;
}

/** True where it stays in the frame, whatever moves. */
export const staysInFrame = (ride: Ride): boolean => kindOf(ride) === FRAME_RIDE;
