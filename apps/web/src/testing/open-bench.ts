import { EMPTY_TRACK, withSamples, type Track } from '@lurn/core/track';
import {
  addTracker,
  FIRST_MOVER,
  newDocument,
  NEW_SPOT,
  type ClipInfo,
  type ClipSummary,
  type ShotState,
  type Spot,
} from '@lurn/model';
import { setBench } from '../state/bench';
import { openShot } from '../state/shot';

/** An open Bench for tests: a clip of 40 frames of 640 x 360, and spots as they are asked for. */

export const FRAMES = 40;
export const INFO = {
  ...{ width: 640, height: 360, frames: FRAMES, fps: 25, pixelAspect: 1, duration: 1.6 },
  colour: { range: 'tv', space: 'bt709', transfer: null, primaries: null, siting: 'left' },
} as ClipInfo;

export const spot = (id: string, more: Partial<Spot> = {}): Spot => ({
  ...NEW_SPOT,
  ...{ id, name: id, mover: FIRST_MOVER.id, colour: 0, patch: [9, 9], reach: [12, 12], minConfidence: 0.15 },
  ...more,
});

/** A track that lies still from frame `from` to frame `to`. */
export const lying = (x: number, y: number, from = 0, to = from): Track =>
  withSamples(
    EMPTY_TRACK,
    Array.from({ length: to - from + 1 }, (_, i) => ({
      ...{ frame: from + i, x, y, confidence: 1 },
      state: i === 0 ? ('pinned' as const) : ('tracked' as const),
    })),
  );

export function shotWith(...trackers: readonly (readonly [Spot, Track])[]): ShotState {
  return trackers.reduce<ShotState>((state, [s, track]) => addTracker(state, s, track), {
    document: newDocument(INFO),
    measured: {},
  });
}

export function openBench(state: ShotState = shotWith()): void {
  openShot(state);
  setBench({
    ...{
      info: INFO,
      clip: { id: 'c', name: 'valley', info: INFO, renders: [], shakiness: 3.1 } as unknown as ClipSummary,
    },
    ...{ times: Float64Array.from({ length: FRAMES }, (_, i) => i / 25), frame: 0, shown: 0, playing: false },
    ...{ selected: [], station: 'mark', tool: { id: 'mark' }, magnifier: null, rectangle: null, span: null },
    ...{
      steady: null,
      steadyOf: null,
      doubts: [],
      spotDoubts: [],
      edgeDoubts: [],
      doubtAt: null,
      tracking: null,
    },
  });
}
