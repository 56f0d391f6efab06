import { useRef } from 'react';
import { useBench } from './bench';

/** Numbers that change more often than this, in milliseconds, cannot be read. */
const LEGIBLE_MS = 150;

/** The playhead's frame for numbers that are read: while it plays it changes only so often that they can be. */
export function useLegibleFrame(): number {
  const last = useRef({ frame: -1, at: -Infinity });
  return useBench(({ frame, playing }) => {
    const now = performance.now();
    if (!playing || now - last.current.at >= LEGIBLE_MS) last.current = { frame, at: now };
    return last.current.frame;
  });
}
