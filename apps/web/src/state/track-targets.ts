import { hasSample, pinFrames, type Measured } from '@lurn/core/track';
import { TRACKERS, type Tracker } from '@lurn/model';
import { bench } from './bench';
import { shotDocument, shotState } from './shot';

/** Where tracking goes to from a frame. */

export type TrackWay = 'end' | 'start' | 'both' | 'next' | 'previous' | 'pin';

/** What is told where a way leads nowhere. */
export const NOWHERE: Readonly<Record<TrackWay, string>> = {
  pin: 'There is no pin after this frame to track to.',
  end: 'This is the last frame; there is nothing further to track.',
  start: 'This is the first frame; there is nothing further to track.',
  both: 'The clip has only this frame.',
  next: 'This is the last frame; there is nothing further to track.',
  previous: 'This is the first frame; there is nothing further to track.',
};

/** The trackers that tracking from the present frame follows, kind by kind: those known here, or of them the selected. */
export function trackersToFollow(): readonly (readonly Tracker[])[] {
  const { selected, onlySelected, frame } = bench();
  const { document, measured } = shotState();
  // What is drawn is known on its own frame before anything is measured of it.
  const known = (t: Tracker) =>
    ('frame' in t && t.frame === frame) || (measured[t.id] !== undefined && hasSample(measured[t.id], frame));
  const chosen = document.trackers.filter((t) => known(t) && (!onlySelected || selected.includes(t.id)));
  return Object.keys(TRACKERS)
    .map((kind) => chosen.filter((t) => t.kind === kind))
    .filter((list) => list.length > 0);
}

/** The frames that tracking goes to, one after the other, each from the same frame; none where there is nothing further. */
export function targetsOf(way: TrackWay, from: number, trackers: readonly Pick<Tracker, 'id'>[]): number[] {
  return framesOf(way, from, trackers).filter((to) => to !== from);
}

function framesOf(way: TrackWay, from: number, trackers: readonly Pick<Tracker, 'id'>[]): number[] {
  const last = bench().info.frames - 1;
  const { range } = shotDocument();
  const end = from < range.to ? range.to : last;
  const start = from > range.from ? range.from : 0;
  const nextPin = () => {
    const { measured } = shotState();
    const pins = trackers.flatMap((t) => (measured[t.id] ? pinFrames(measured[t.id]) : []));
    const ahead = pins.filter((f) => f > from);
    return ahead.length > 0 ? [Math.min(...ahead)] : [];
  };
  const ways: Readonly<Record<TrackWay, () => number[]>> = {
    end: () => [end],
    start: () => [start],
    both: () => [end, start],
    next: () => [Math.min(last, from + 1)],
    previous: () => [Math.max(0, from - 1)],
    pin: nextPin,
  };
  return ways[way]();
}

/** The nearest pins before and after a frame; a pin on the frame itself begins the stretch after it. */
export function pinsRound(
  track: Pick<Measured, 'start' | 'state'>,
  frame: number,
): readonly [number, number] | null {
  const pins = pinFrames(track);
  const before = pins.filter((f) => f <= frame).pop();
  const after = pins.find((f) => f > frame);
  if (before !== undefined && after !== undefined) return [before, after];
  // On the last pin: the stretch before it.
  if (before === frame && pins.length > 1 && hasSample(track, frame)) return [pins[pins.length - 2], frame];
  return null;
}
