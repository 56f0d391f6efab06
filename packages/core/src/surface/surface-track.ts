import { moveQuad, quadToQuad, type Quad } from '../geometry/homography.js';
import type { Matrix3, Point } from '../geometry/matrix.js';
import {
  emptyMeasured,
  measuredEnd,
  resized,
  STATES,
  type Measured,
  type SampleState,
} from '../track/measured.js';

/** What was measured of a flat surface. */
export type SurfaceTrack = Measured<'surface'>;

export const EMPTY_SURFACE_TRACK: SurfaceTrack = emptyMeasured('surface');

/** A surface on one frame. */
export interface SurfaceSample {
  readonly frame: number;
  /** Where the corners of its base are. */
  readonly corners: Quad;
  /** The probability that every corner of its shape is within 0.5 px. */
  readonly confidence: number;
  readonly state: SampleState;
  /** The part of its texture that was seen and fitted; absent where that was not measured. */
  readonly held?: number;
  /** By how many pixels tracking from the other side disagrees; 0 or absent where it does not. */
  readonly mismatch?: number;
}

/** The sample on a frame, or null where it is missing. */
export function surfaceAt(track: SurfaceTrack, frame: number): SurfaceSample | null {
  const i = frame - track.start;
  const state = track.state[i];
  if (!state) return null;
  const { x1, y1, x2, y2, x3, y3, x4, y4, held, mismatch } = track.values;
  return {
    frame,
    corners: [
      { x: x1[i], y: y1[i] },
      { x: x2[i], y: y2[i] },
      { x: x3[i], y: y3[i] },
      { x: x4[i], y: y4[i] },
    ],
    confidence: track.confidence[i],
    state: STATES[state] as SampleState,
    ...(!Number.isNaN(held[i]) && { held: held[i] }),
    ...(mismatch[i] > 0 && { mismatch: mismatch[i] }),
  };
}

/** A track with these samples put in place of whatever their frames had. Cost: one copy of the span. */
export function withSurfaceSamples(track: SurfaceTrack, samples: readonly SurfaceSample[]): SurfaceTrack {
  if (samples.length === 0) return track;
  const empty = track.state.length === 0;
  const frames = samples.map((s) => s.frame);
  const start = Math.min(...frames, empty ? Infinity : track.start);
  const end = Math.max(...frames.map((f) => f + 1), empty ? -Infinity : measuredEnd(track));
  const out = resized(track, start, end);
  const { x1, y1, x2, y2, x3, y3, x4, y4, held, mismatch } = out.values;
  for (const s of samples) {
    const i = s.frame - start;
    out.state[i] = STATES.indexOf(s.state);
    out.confidence[i] = s.confidence;
    const [a, b, c, d] = s.corners;
    [x1[i], y1[i], x2[i], y2[i]] = [a.x, a.y, b.x, b.y];
    [x3[i], y3[i], x4[i], y4[i]] = [c.x, c.y, d.x, d.y];
    held[i] = s.held ?? NaN;
    mismatch[i] = s.mismatch ?? 0;
  }
  return out;
}

/** Every sample in order of frames. */
export function* surfaceSamples(track: SurfaceTrack): Generator<SurfaceSample> {
  for (let i = 0; i < track.state.length; i++) {
    const sample = surfaceAt(track, track.start + i);
    if (sample) yield sample;
  }
}

/** The surface's own frame to a frame's, by where its base went; null where there is no sample, or it turned over. */
export function surfaceMotion(base: Quad, track: SurfaceTrack, frame: number): Matrix3 | null {
  const sample = surfaceAt(track, frame);
  return sample && quadToQuad(base, sample.corners);
}

/** Where a quad on the surface's own frame is on another; null where that is not known. */
export function quadOn(base: Quad, quad: Quad, track: SurfaceTrack, frame: number): Quad | null {
  const m = surfaceMotion(base, track, frame);
  return m && moveQuad(m, quad);
}

/** The mean distance of corners. */
export function cornersApart(a: Quad, b: Quad): number {
  return a.reduce((sum, p, i) => sum + Math.hypot(p.x - b[i].x, p.y - b[i].y), 0) / 4;
}

/** The distance of the corners that are farthest apart. */
export function farthestApart(a: readonly Point[], b: readonly Point[]): number {
  return a.reduce((most, p, i) => Math.max(most, Math.hypot(p.x - b[i].x, p.y - b[i].y)), 0);
}
