import { emptyMeasured, measuredEnd, resized, STATES, type Measured, type SampleState } from './measured.js';

/** A spot's place on one frame. */
export interface Sample {
  /** Centre of the patch, in source pixels. */
  readonly x: number;
  readonly y: number;
  /** 0 (no trust) to 1. */
  readonly confidence: number;
  readonly state: SampleState;
  /** By how many pixels tracking from the other side disagrees; 0 or absent where it does not or was not tried. */
  readonly mismatch?: number;
  /** Radians, clockwise, and ratio by which the patch has turned and grown; absent where that was not measured. */
  readonly turn?: number;
  readonly scale?: number;
}

export interface FramedSample extends Sample {
  readonly frame: number;
}

/** What was measured of a spot. */
export type Track = Measured<'spot'>;

export const EMPTY_TRACK: Track = emptyMeasured('spot');

const PINNED = STATES.indexOf('pinned');

/** The sample on a frame, or null where it is missing. */
export function sampleAt(track: Track, frame: number): Sample | null {
  const i = frame - track.start;
  const state = track.state[i];
  if (!state) return null;
  const { x, y, mismatch, turn, scale } = track.values;
  return {
    x: x[i],
    y: y[i],
    confidence: track.confidence[i],
    state: STATES[state] as SampleState,
    ...(mismatch[i] > 0 && { mismatch: mismatch[i] }),
    ...(!Number.isNaN(turn[i]) && { turn: turn[i] }),
    ...(!Number.isNaN(scale[i]) && { scale: scale[i] }),
  };
}

/** The frames that have a pin, in order. */
export function pinFrames({ start, state }: Pick<Track, 'start' | 'state'>): number[] {
  const out: number[] = [];
  for (let i = 0; i < state.length; i++) if (state[i] === PINNED) out.push(start + i);
  return out;
}

/** The pin nearest to a frame among those on frames that `fits` agrees to, or null. */
export function nearestPin(
  track: Track,
  frame: number,
  fits: (frame: number) => boolean = () => true,
): FramedSample | null {
  let best: number | null = null;
  for (const at of pinFrames(track)) {
    if ((best === null || Math.abs(at - frame) < Math.abs(best - frame)) && fits(at)) best = at;
  }
  return best === null ? null : { frame: best, ...sampleAt(track, best)! };
}

/** Every sample in order of frames. */
export function* samplesOf(track: Track): Generator<FramedSample> {
  for (let i = 0; i < track.state.length; i++) {
    const sample = sampleAt(track, track.start + i);
    if (sample) yield { frame: track.start + i, ...sample };
  }
}

/** A track with these samples put in place of whatever their frames had. Cost: one copy of the span. */
export function withSamples(track: Track, samples: readonly FramedSample[]): Track {
  if (samples.length === 0) return track;
  const empty = track.state.length === 0;
  let start = empty ? samples[0].frame : track.start;
  let end = empty ? start : measuredEnd(track);
  for (const { frame } of samples) {
    start = Math.min(start, frame);
    end = Math.max(end, frame + 1);
  }
  const out = resized(track, start, end);
  const { x, y, mismatch, turn, scale } = out.values;
  for (const s of samples) {
    const i = s.frame - start;
    out.state[i] = STATES.indexOf(s.state);
    out.confidence[i] = s.confidence;
    x[i] = s.x;
    y[i] = s.y;
    mismatch[i] = s.mismatch ?? 0;
    turn[i] = s.turn ?? NaN;
    scale[i] = s.scale ?? NaN;
  }
  return out;
}
