import { useEffect } from 'react';
import type { Measured } from '@lurn/core/track';
import { prepareRibbon } from './Ribbon';

/** Shorter tracks are summed up while they are drawn, and nobody notices. */
const LONG = 10_000;
/** A track of an hour takes about this long. */
const ROOM_MS = 6;

/** Sums up long tracks while nothing else is to be done, so that scrolling to their ribbons does not wait for it. */
export function usePreparedRibbons(tracks: Readonly<Record<string, Measured>>): void {
  useEffect(() => {
    // A browser without it sums up when a ribbon is drawn.
    if (typeof requestIdleCallback === 'undefined') return;
    const left = Object.values(tracks).filter((track) => track.state.length >= LONG);
    let due = 0;
    const work = (idle: IdleDeadline) => {
      while (left.length > 0 && idle.timeRemaining() > ROOM_MS) prepareRibbon(left.pop()!);
      if (left.length > 0) due = requestIdleCallback(work);
    };
    if (left.length > 0) due = requestIdleCallback(work);
    return () => cancelIdleCallback(due);
  }, [tracks]);
}
