import type { Point } from '../geometry/matrix.js';
import {
  emptyMeasured,
  measuredEnd,
  resized,
  STATES,
  type Measured,
  type SampleState,
} from '../track/measured.js';

/** What was measured of a soft surface. */
export type SoftTrack = Measured<'soft'>;

export const EMPTY_SOFT_TRACK: SoftTrack = emptyMeasured('soft');

/** Where a vertex of a soft surface is on a frame. */
export interface SoftVertex extends Point {
  /** The probability that it is within 0.5 px. */
  readonly confidence: number;
  readonly state: SampleState;
}

/** A soft surface on one frame. */
export interface SoftSample {
  readonly frame: number;
  /** Its vertices, null where one is hidden for long or has ended. */
  readonly vertices: readonly (SoftVertex | null)[];
  /** The mean confidence of its vertices; one that has ended counts for nothing. */
  readonly confidence: number;
  readonly state: SampleState;
  /** The part of its texture that was seen and fitted; absent where that was not measured. */
  readonly held?: number;
}

/** A sample of vertices, told as a whole: pinned where one is, tracked where one is, coasted where none is. */
export function softSample(
  frame: number,
  vertices: readonly (SoftVertex | null)[],
  held?: number,
): SoftSample {
  const has = (state: SampleState) => vertices.some((v) => v?.state === state);
  const state = (['pinned', 'tracked', 'bridged'] as const).find(has) ?? 'coasted';
  const confidence =
    vertices.reduce((sum, v) => sum + (v?.confidence ?? 0), 0) / Math.max(1, vertices.length);
  return { frame, vertices, confidence, state, ...(held !== undefined && { held }) };
}

/** The sample on a frame, or null where it is missing. */
export function softAt(track: SoftTrack, frame: number): SoftSample | null {
  const i = frame - track.start;
  const state = track.state[i];
  if (!state) return null;
  const { width } = track;
  const { x, y, confidences, states, held } = track.values;
  const vertices = Array.from({ length: width }, (_, v): SoftVertex | null => {
    const k = i * width + v;
    return states[k]
      ? { x: x[k], y: y[k], confidence: confidences[k], state: STATES[states[k]] as SampleState }
      : null;
  });
  return {
    ...{ frame, vertices, confidence: track.confidence[i], state: STATES[state] as SampleState },
    ...(!Number.isNaN(held[i]) && { held: held[i] }),
  };
}

/** A track with these samples put in place of whatever their frames had. Cost: one copy of the span. */
export function withSoftSamples(track: SoftTrack, samples: readonly SoftSample[]): SoftTrack {
  if (samples.length === 0) return track;
  const width = samples[0].vertices.length;
  const from = track.state.length === 0 || track.width !== width ? emptyMeasured('soft', 0, 0, width) : track;
  const empty = from.state.length === 0;
  const frames = samples.map((s) => s.frame);
  const start = Math.min(...frames, empty ? Infinity : from.start);
  const end = Math.max(...frames.map((f) => f + 1), empty ? -Infinity : measuredEnd(from));
  const out = resized(from, start, end);
  const { x, y, confidences, states, held } = out.values;
  for (const s of samples) {
    const i = s.frame - start;
    out.state[i] = STATES.indexOf(s.state);
    out.confidence[i] = s.confidence;
    held[i] = s.held ?? NaN;
    s.vertices.forEach((p, v) => {
      const k = i * width + v;
      x[k] = p?.x ?? NaN;
      y[k] = p?.y ?? NaN;
      confidences[k] = p?.confidence ?? 0;
      states[k] = p ? STATES.indexOf(p.state) : 0;
    });
  }
  return out;
}

/** Every sample in order of frames. */
export function* softSamples(track: SoftTrack): Generator<SoftSample> {
  for (let i = 0; i < track.state.length; i++) {
    const sample = softAt(track, track.start + i);
    if (sample) yield sample;
  }
}

/** How many vertices are not known on a frame that has a sample. */
export function endedOn(track: SoftTrack, frame: number): number {
  const i = frame - track.start;
  if (!track.state[i]) return 0;
  let n = 0;
  for (let v = 0; v < track.width; v++) if (!track.values.states[i * track.width + v]) n++;
  return n;
}
