import {
  EMPTY_SOFT_TRACK,
  EMPTY_SURFACE_TRACK,
  EMPTY_TRACK,
  type Measured,
  type SoftTrack,
  type SurfaceTrack,
  type Track,
} from '@lurn/core';
import type { ShotState } from './document.js';

/** What was measured of a spot; nothing where it was not tracked. */
export function trackOf({ measured }: Pick<ShotState, 'measured'>, id: string): Track {
  const found: Measured | undefined = measured[id];
  return found?.kind === 'spot' ? (found as Track) : EMPTY_TRACK;
}

/** What was measured of a surface; nothing where it was not tracked. */
export function surfaceTrackOf({ measured }: Pick<ShotState, 'measured'>, id: string): SurfaceTrack {
  const found: Measured | undefined = measured[id];
  return found?.kind === 'surface' ? (found as SurfaceTrack) : EMPTY_SURFACE_TRACK;
}

/** What was measured of a soft surface; nothing where it was not tracked. */
export function softTrackOf({ measured }: Pick<ShotState, 'measured'>, id: string): SoftTrack {
  const found: Measured | undefined = measured[id];
  return found?.kind === 'soft' ? (found as SoftTrack) : EMPTY_SOFT_TRACK;
}
