import { LurnError } from '../errors.js';
import { EMPTY_TRACK, type Track } from '../track/track.js';

/** A track as plain JSON: columns over a span of frames, positions to a ten-thousandth of a pixel. */
export interface TrackColumns {
  readonly start: number;
  /** null where a sample is missing. */
  readonly x: readonly (number | null)[];
  readonly y: readonly (number | null)[];
  readonly confidence: readonly number[];
  /** One letter a frame: `-` missing, `p` pinned, `t` tracked, `c` coasted, `b` bridged. */
  readonly state: string;
  /** Disagreement of tracking from the other side, in pixels; left out where there is none at all. */
  readonly mismatch?: readonly number[];
}

const LETTERS = '-ptcb';

export function toColumns(track: Track): TrackColumns {
  const place = (v: number) => (Number.isNaN(v) ? null : Math.round(v * 1e4) / 1e4);
  return {
    start: track.start,
    x: Array.from(track.x, place),
    y: Array.from(track.y, place),
    confidence: Array.from(track.confidence, (c) => Math.round(c * 1e3) / 1e3),
    state: Array.from(track.state, (s) => LETTERS[s]).join(''),
    ...(track.mismatch.some((v) => v > 0) && {
      mismatch: Array.from(track.mismatch, (v) => Math.round(v * 1e3) / 1e3),
    }),
  };
}

/** @throws LurnError `bad-track` when the columns do not fit each other or a value is not what it should be. */
export function fromColumns(columns: TrackColumns): Track {
  const n = columns.state.length;
  if (n === 0) return EMPTY_TRACK;
  const bad = (why: string) => new LurnError('bad-track', `The track's columns cannot be read: ${why}.`);
  if (columns.x.length !== n || columns.y.length !== n || columns.confidence.length !== n) {
    throw bad('x, y, confidence and state differ in length');
  }
  if (!Number.isInteger(columns.start) || columns.start < 0) throw bad('the first frame is not 0 or more');
  const state = Uint8Array.from(columns.state, (letter) => LETTERS.indexOf(letter));
  if (state.includes(255)) throw bad(`a state is not one of "${LETTERS}"`);
  const place = (v: number | null) => v ?? NaN;
  const x = Float64Array.from(columns.x, place);
  const y = Float64Array.from(columns.y, place);
  for (let i = 0; i < n; i++) {
    if (state[i] && !(Number.isFinite(x[i]) && Number.isFinite(y[i]))) {
      throw bad(`frame ${columns.start + i} has a state but no position`);
    }
  }
  const mismatch = Float64Array.from(columns.mismatch ?? new Float64Array(n));
  if (mismatch.length !== n) throw bad('mismatch and state differ in length');
  return { start: columns.start, x, y, confidence: Float64Array.from(columns.confidence), state, mismatch };
}
