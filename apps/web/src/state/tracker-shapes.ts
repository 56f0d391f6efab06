import type { Point } from '@lurn/core/geometry';
import { placeOf, type Tracker, type TrackerOf } from '@lurn/model';
import { shotState } from './shot';
import { borderShown } from './soft/mesh-shown';
import { quadShown } from './surfaces';

/** What is seen of a tracker on a frame, as a closed shape; null where it is not known there. */
export function shapeShown(
  tracker: Tracker,
  frame: number,
): { corners: readonly Point[]; smooth: boolean } | null {
  const of = SHAPES[tracker.kind] as (tracker: Tracker, frame: number) => readonly Point[] | null;
  const corners = of(tracker, frame);
  return corners && { corners, smooth: tracker.kind in SMOOTH };
}

const SHAPES: {
  readonly [K in Tracker['kind']]: (tracker: TrackerOf<K>, frame: number) => readonly Point[] | null;
} = { spot: roundPatch, surface: quadShown, soft: borderShown };

/** Drawn as a smooth curve through its corners. */
const SMOOTH: Partial<Record<Tracker['kind'], true>> = { spot: true };

/** An ellipse about a spot's patch. */
function roundPatch({ id, patch }: TrackerOf<'spot'>, frame: number): Point[] | null {
  const track = placeOf(shotState(), id);
  const i = frame - (track?.start ?? 0);
  if (!track?.state[i]) return null;
  return Array.from({ length: 8 }, (_, k) => ({
    x: track.values.x[i] + 1.6 * patch[0] * Math.cos((k / 4) * Math.PI),
    y: track.values.y[i] + 1.6 * patch[1] * Math.sin((k / 4) * Math.PI),
  }));
}
