/** How a sample came about (conventions: pinned, tracked, coasted, bridged; no sample is `missing`). */
export type SampleState = 'pinned' | 'tracked' | 'coasted' | 'bridged';

export interface Sample {
  /** Centre of the patch, in source pixels. */
  readonly x: number;
  readonly y: number;
  /** 0 (no trust) to 1. */
  readonly confidence: number;
  readonly state: SampleState;
  /** By how many pixels tracking from the other side disagrees; 0 or absent where it does not or was not tried. */
  readonly mismatch?: number;
}

export interface FramedSample extends Sample {
  readonly frame: number;
}

/**
 * The samples of one spot, in columns over a span of frames. Immutable: edits give a new track, so that any
 * number of undo steps share what they have in common.
 */
export interface Track {
  /** First frame of the span. */
  readonly start: number;
  /** Positions in pixels, NaN where a sample is missing. */
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly confidence: Float64Array;
  /** Index into {@link STATES}; 0 is missing. */
  readonly state: Uint8Array;
  /** Disagreement of tracking from the other side, in pixels; 0 where there is none or it was not tried. */
  readonly mismatch: Float64Array;
}

export const STATES = ['missing', 'pinned', 'tracked', 'coasted', 'bridged'] as const;

export const EMPTY_TRACK: Track = allocate(0, 0);

function allocate(start: number, length: number): Track {
  return {
    start,
    x: new Float64Array(length).fill(NaN),
    y: new Float64Array(length).fill(NaN),
    confidence: new Float64Array(length),
    state: new Uint8Array(length),
    mismatch: new Float64Array(length),
  };
}

/** One past the last frame of the span. */
export function trackEnd(track: Track): number {
  return track.start + track.state.length;
}

/** The sample on a frame, or null where it is missing. */
export function sampleAt(track: Track, frame: number): Sample | null {
  const i = frame - track.start;
  const state = track.state[i];
  if (!state) return null;
  return {
    x: track.x[i],
    y: track.y[i],
    confidence: track.confidence[i],
    state: STATES[state] as SampleState,
    ...(track.mismatch[i] > 0 && { mismatch: track.mismatch[i] }),
  };
}

export function hasSample(track: Track, frame: number): boolean {
  return (track.state[frame - track.start] ?? 0) !== 0;
}

/** How many frames have a sample. */
export function countSamples(track: Track): number {
  let n = 0;
  for (const state of track.state) if (state) n++;
  return n;
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
  let end = empty ? start : trackEnd(track);
  for (const { frame } of samples) {
    start = Math.min(start, frame);
    end = Math.max(end, frame + 1);
  }
  const out = resized(track, start, end);
  for (const s of samples) {
    const i = s.frame - start;
    out.x[i] = s.x;
    out.y[i] = s.y;
    out.confidence[i] = s.confidence;
    out.state[i] = STATES.indexOf(s.state);
    out.mismatch[i] = s.mismatch ?? 0;
  }
  return out;
}

/** A track without the samples on frames `from` to `to` (both included) that `drop` agrees to. */
export function withoutSamples(
  track: Track,
  from: number,
  to: number,
  drop: (state: SampleState) => boolean = () => true,
): Track {
  const out = resized(track, track.start, trackEnd(track));
  for (let f = Math.max(from, track.start); f <= Math.min(to, trackEnd(track) - 1); f++) {
    const i = f - track.start;
    if (!out.state[i] || !drop(STATES[out.state[i]] as SampleState)) continue;
    out.x[i] = out.y[i] = NaN;
    out.confidence[i] = out.state[i] = out.mismatch[i] = 0;
  }
  return trimmed(out);
}

function resized(track: Track, start: number, end: number): Track {
  const out = allocate(start, end - start);
  if (track.state.length === 0) return out;
  const at = track.start - start;
  out.x.set(track.x, at);
  out.y.set(track.y, at);
  out.confidence.set(track.confidence, at);
  out.state.set(track.state, at);
  out.mismatch.set(track.mismatch, at);
  return out;
}

function trimmed(track: Track): Track {
  let a = 0;
  let b = track.state.length;
  while (a < b && !track.state[a]) a++;
  while (b > a && !track.state[b - 1]) b--;
  if (a === b) return EMPTY_TRACK;
  return {
    start: track.start + a,
    x: track.x.slice(a, b),
    y: track.y.slice(a, b),
    confidence: track.confidence.slice(a, b),
    state: track.state.slice(a, b),
    mismatch: track.mismatch.slice(a, b),
  };
}
