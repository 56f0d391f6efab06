import type { Point } from '../geometry/matrix.js';

/**
 * Features of the whole picture, each followed from frame to frame as long as it can be seen. All tracks lie in common
 * columns: those of track k at `first[k]` to `first[k + 1] - 1`, one a frame from `start[k]` on. Coordinates are source
 * pixels.
 */
export interface SceneTracks {
  readonly frames: number;
  readonly start: Int32Array;
  readonly first: Int32Array;
  readonly x: Float32Array;
  readonly y: Float32Array;
  /** Probability that a place is right, 0 to 1; 0 where the feature was not seen. */
  readonly confidence: Float32Array;
  /** First frames of the parts after the first: where the picture changes to another at once. */
  readonly cuts: Int32Array;
}

export function trackCount({ start }: Pick<SceneTracks, 'start'>): number {
  return start.length;
}

/** One past the last frame of a track. */
export function trackEnd({ start, first }: Pick<SceneTracks, 'start' | 'first'>, k: number): number {
  return start[k] + first[k + 1] - first[k];
}

/** Where the columns have a track's sample of a frame; -1 where it has none. */
export function sampleIndex({ start, first, confidence }: SceneTracks, k: number, frame: number): number {
  const at = first[k] + frame - start[k];
  return at >= first[k] && at < first[k + 1] && confidence[at] > 0 ? at : -1;
}

/** First and last frame of each part between cuts. */
export function partsOf({
  frames,
  cuts,
}: Pick<SceneTracks, 'frames' | 'cuts'>): { from: number; to: number }[] {
  const starts = [0, ...cuts];
  return starts.map((from, i) => ({ from, to: (starts[i + 1] ?? frames) - 1 }));
}

/** Tracks whose samples lie elsewhere. @param to  where a place of a frame goes */
export function movedTracks(tracks: SceneTracks, to: (frame: number, at: Point) => Point): SceneTracks {
  const [x, y] = [tracks.x.slice(), tracks.y.slice()];
  for (let k = 0; k < trackCount(tracks); k++) {
    const end = trackEnd(tracks, k);
    for (let f = tracks.start[k], at = tracks.first[k]; f < end; f++, at++) {
      if (tracks.confidence[at] === 0) continue;
      const p = to(f, { x: tracks.x[at], y: tracks.y[at] });
      [x[at], y[at]] = [p.x, p.y];
    }
  }
  return { ...tracks, x, y };
}

/** Samples of one track while it is being followed. */
export interface Growing {
  readonly start: number;
  readonly x: ArrayLike<number>;
  readonly y: ArrayLike<number>;
  readonly confidence: ArrayLike<number>;
}

/** Tracks in columns. @param scale  source pixels a sample of the planes that they were followed on, across and down */
export function gathered(
  list: readonly Growing[],
  frames: number,
  cuts: readonly number[],
  scale: readonly [number, number],
): SceneTracks {
  const first = new Int32Array(list.length + 1);
  list.forEach((t, k) => (first[k + 1] = first[k] + t.x.length));
  const count = first[list.length];
  const [x, y, confidence] = [0, 1, 2].map(() => new Float32Array(count));
  list.forEach((t, k) => {
    for (let i = 0, at = first[k]; i < t.x.length; i++, at++) {
      x[at] = t.x[i] * scale[0];
      y[at] = t.y[i] * scale[1];
      confidence[at] = t.confidence[i];
    }
  });
  return {
    ...{ frames, first, x, y, confidence },
    start: Int32Array.from(list, (t) => t.start),
    cuts: Int32Array.from(cuts),
  };
}

/** The samples of every so many frames alone, numbered anew: what moves together does so on some frames as on all. */
export function everyNth(tracks: SceneTracks, step: number): SceneTracks {
  if (step === 1) return tracks;
  const count = trackCount(tracks);
  const start = new Int32Array(count);
  const first = new Int32Array(count + 1);
  for (let k = 0; k < count; k++) {
    start[k] = Math.ceil(tracks.start[k] / step);
    first[k + 1] = first[k] + Math.max(0, Math.ceil(trackEnd(tracks, k) / step) - start[k]);
  }
  const [x, y, confidence] = [tracks.x, tracks.y, tracks.confidence].map((from) => {
    const to = new Float32Array(first[count]);
    for (let k = 0; k < count; k++) {
      const shift = tracks.first[k] - tracks.start[k];
      for (let i = first[k], f = start[k] * step; i < first[k + 1]; i++, f += step) to[i] = from[shift + f];
    }
    return to;
  });
  return {
    ...{ frames: Math.ceil(tracks.frames / step), start, first, x, y, confidence },
    cuts: tracks.cuts.map((c) => Math.ceil(c / step)),
  };
}
