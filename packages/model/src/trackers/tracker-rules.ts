import type { Ride } from '@lurn/core/compose';
import type { Measured, MeasuredKind, ToTrack, Track } from '@lurn/core/track';
import { faultOfKeys, type DrawnKey } from '../area.js';
import { whyNotWithin } from '../checks.js';
import type { Rides } from '../layers/rides.js';

/** Where something is wrong, and what. */
export type Fault = readonly [path: string, why: string];

export type PlaceOf = (id: string, corner?: number) => Track | null;

/** What a document asks of each kind of tracker, besides what its class says of its fields. */
export interface TrackerRules<K extends MeasuredKind, T> {
  /** True where each makes a mover of its own, which goes when it goes. */
  readonly ownMover: boolean;
  /** What is wrong with one in a clip of so many frames; null where nothing is. */
  fault(tracker: T, frames: number): Fault | null;
  /** As it is in a clip of fewer frames; null where nothing of it is left. */
  fitted(tracker: T, frames: number): T | null;
  /** As its kind follows it. @param placeOf  where another tracker, or a corner of it, was */
  toTrack(tracker: T, measured: Measured<K>, placeOf: PlaceOf): ToTrack<K>;
  /** Where it was, or a corner of it, as one place; null of what has no such place. */
  place(tracker: T, measured: Measured<K>, corner?: number): Track | null;
  /** What rides on it. */
  ride(tracker: T, measured: Measured<K>, rides: Pick<Rides, 'laid'>): Ride;
}

/** What is drawn on a frame of its own, as outlines. */
interface Drawn {
  readonly frame: number;
  readonly shapes: readonly { readonly kind: string; readonly keys: readonly DrawnKey[] }[];
}

export function faultOfDrawn({ frame, shapes }: Drawn, frames: number): Fault | null {
  if (frame >= frames) return ['frame', whyNotWithin([0, frames - 1], frame)];
  if (!shapes.some((s) => s.kind === 'focus')) return ['shapes', 'has no outline of what belongs to it'];
  for (const [i, { keys }] of shapes.entries()) {
    const fault = faultOfKeys(keys, frames);
    if (fault) return [`shapes[${i}].${fault[0]}`, fault[1]];
  }
  return null;
}

/** Outlines with the keys of a clip of fewer frames. */
export function fittedShapes<S extends { readonly keys: readonly DrawnKey[] }>(
  shapes: readonly S[],
  frames: number,
): S[] {
  return shapes.flatMap((shape) => {
    const keys = shape.keys.filter((key) => key.frame < frames);
    return keys.length > 0 ? [{ ...shape, keys }] : [];
  });
}

export function fittedDrawn<T extends Drawn>(drawn: T, frames: number): T | null {
  const shapes = fittedShapes(drawn.shapes, frames);
  return drawn.frame < frames && shapes.length > 0 ? { ...drawn, shapes } : null;
}
