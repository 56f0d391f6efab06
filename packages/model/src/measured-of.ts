import {
  trackerKind,
  type Measured,
  type MeasuredKind,
  type SoftTrack,
  type SurfaceTrack,
  type Track,
} from '@lurn/core';
import type { ShotState } from './document.js';

type Known = Pick<ShotState, 'measured'>;

/** What was measured of a tracker of a kind; nothing where it was not tracked, or is of another. */
export function measuredOf<K extends MeasuredKind>({ measured }: Known, kind: K, id: string): Measured<K> {
  const found: Measured | undefined = measured[id];
  return found?.kind === kind ? (found as Measured<K>) : trackerKind(kind).empty;
}

export const trackOf = (state: Known, id: string): Track => measuredOf(state, 'spot', id);

export const surfaceTrackOf = (state: Known, id: string): SurfaceTrack => measuredOf(state, 'surface', id);

export const softTrackOf = (state: Known, id: string): SoftTrack => measuredOf(state, 'soft', id);
