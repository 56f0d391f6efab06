import { IDENTITY } from '../../../geometry/matrix.js';
import type { RideKind } from '../ride-kind.js';

/** Nothing: it stays where it is in the frame. */
export interface FrameRide {
  readonly on: 'frame';
}

export const FRAME_RIDE: RideKind<FrameRide> = {
  carry: () => ({ m: IDENTITY, share: 1, confidence: 1 }),
  home: ({ asFrame }, own) => asFrame(own),
};
