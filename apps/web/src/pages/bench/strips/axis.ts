import type { scaleLinear } from 'd3-scale';
import { useEffect, useRef, type PointerEvent } from 'react';
import { bench, goTo, setBench, useBench } from '../../../state/bench';
import { beginGesture, endGesture } from '../../../state/shot';

/** Frames to pixels of the strips. */
export type X = ReturnType<typeof scaleLinear<number, number>>;

/** Sizes of the strips, in pixels. */
export const LABEL = 124;
export const RIBBON = 18;
export const CURVE = 50;
export const MOTION = 64;
export const LANE = 18;
export const FILM = 30;
export const WAVE = 22;
export const RULER = 26;
export const RIGHT = 10;

/** The closest zoom, in frames across. */
const FEWEST_FRAMES = 8;

/** Zooms the time axis about a frame. */
export function zoomTime(factor: number, about = bench().frame): void {
  const { timeView, info } = bench();
  const last = info.frames - 1;
  const { from, to } = timeView ?? { from: 0, to: last };
  const length = Math.max(FEWEST_FRAMES, (to - from) * factor);
  if (length >= last) {
    setBench({ timeView: null });
    return;
  }
  const share = Math.min(1, Math.max(0, (about - from) / (to - from)));
  const start = Math.min(last - length, Math.max(0, about - share * length));
  setBench({ timeView: { from: start, to: start + length } });
}

/** Moves the shown part of the time axis by a share of its length. */
export function panTime(share: number): void {
  const { timeView, info } = bench();
  if (!timeView) return;
  const length = timeView.to - timeView.from;
  const from = Math.min(info.frames - 1 - length, Math.max(0, timeView.from + share * length));
  setBench({ timeView: { from, to: from + length } });
}

/** Turns the page when the playhead leaves the shown part of the time axis. */
export function useViewFollowsPlayhead(): void {
  useEffect(
    () =>
      useBench.subscribe(({ frame, timeView }, before) => {
        if (frame === before.frame || !timeView) return;
        const length = timeView.to - timeView.from;
        if (frame > timeView.to) panTime((frame - timeView.from - 0.1 * length) / length);
        else if (frame < timeView.from) panTime((frame - timeView.from - 0.9 * length) / length);
      }),
    [],
  );
}

/** Pressing a ribbon goes to a frame; with Shift, dragging chooses a span of frames of that spot. */
export function useRibbon(frameAt: (clientX: number) => number) {
  const start = useRef<number | null>(null);
  const scrub = useScrub(frameAt);
  const clamp = (clientX: number) =>
    Math.min(bench().info.frames - 1, Math.max(0, Math.round(frameAt(clientX))));
  return (id: string) => ({
    onPointerDown: (e: PointerEvent<Element>) => {
      if (!e.shiftKey) {
        scrub.onPointerDown(e);
        return;
      }
      e.currentTarget.setPointerCapture(e.pointerId);
      start.current = clamp(e.clientX);
      setBench({ selected: [id], span: { from: start.current, to: start.current }, doubtAt: null });
    },
    onPointerMove: (e: PointerEvent<Element>) => {
      if (start.current === null) {
        scrub.onPointerMove(e);
        return;
      }
      const here = clamp(e.clientX);
      setBench({ span: { from: Math.min(start.current, here), to: Math.max(start.current, here) } });
    },
    onPointerUp: () => {
      start.current = null;
    },
    onPointerCancel: () => {
      start.current = null;
    },
  });
}

/** A handle on the time axis that is dragged from frame to frame, as one step. */
export function dragHandle(move: (clientX: number) => void, begin?: () => void) {
  return {
    onPointerDown: (e: PointerEvent<Element>) => {
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
      beginGesture();
      begin?.();
    },
    onPointerMove: (e: PointerEvent<Element>) => {
      if (e.currentTarget.hasPointerCapture(e.pointerId)) move(e.clientX);
    },
    onPointerUp: endGesture,
    onPointerCancel: endGesture,
  };
}

export function useScrub(frameAt: (clientX: number) => number) {
  return {
    onPointerDown: (e: PointerEvent<Element>) => {
      e.currentTarget.setPointerCapture(e.pointerId);
      setBench({ playing: false });
      goTo(frameAt(e.clientX));
    },
    onPointerMove: (e: PointerEvent<Element>) => {
      if (e.currentTarget.hasPointerCapture(e.pointerId)) goTo(frameAt(e.clientX));
    },
  };
}
