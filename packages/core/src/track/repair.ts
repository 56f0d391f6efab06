import { LurnError } from '../errors.js';
import { smoothGaussian } from '../smooth/gaussian.js';
import { sampleAt, samplesOf, trackEnd, withSamples, type FramedSample, type Track } from './track.js';

const BRIDGED_CONFIDENCE = 0.4;
/** Measured samples on each side of a gap that tell how the path leaves and arrives. */
const SLOPE_SAMPLES = 4;

/**
 * Closes gaps between measured samples with a curve that leaves and arrives as the path does (cubic Hermite).
 * Frames from `from` to `to`, both included, without a sample are bridged, as are those whose sample is coasted or
 * bridged; measured samples and pins stay. What has no sample on one of its sides stays missing.
 *
 * @throws LurnError `nothing-to-bridge` when no gap in the span has a sample on both sides.
 */
export function bridge(track: Track, from: number, to: number): Track {
  const added: FramedSample[] = [];
  const firm = (f: number) => {
    const s = sampleAt(track, f);
    return s && s.state !== 'coasted' && s.state !== 'bridged' ? s : null;
  };
  for (let f = Math.max(from, track.start); f <= Math.min(to, trackEnd(track) - 1); f++) {
    if (firm(f)) continue;
    let a = f;
    let b = f;
    while (a >= track.start && !firm(a)) a--;
    while (b < trackEnd(track) && !firm(b)) b++;
    if (a < track.start || b >= trackEnd(track)) continue;
    added.push(...curve(track, a, b).filter((s) => s.frame >= from && s.frame <= to));
    f = b;
  }
  if (added.length === 0) {
    throw new LurnError(
      'nothing-to-bridge',
      `There is no gap between samples from frame ${from} to ${to}. Choose a span with a sample on both of its sides.`,
    );
  }
  return withSamples(track, added);
}

/** Bridged samples on the frames strictly between two that have a sample. */
function curve(track: Track, a: number, b: number): FramedSample[] {
  const [p, q] = [sampleAt(track, a)!, sampleAt(track, b)!];
  const span = b - a;
  const [u, v] = [slope(track, a, -1), slope(track, b, 1)];
  const samples: FramedSample[] = [];
  for (let f = a + 1; f < b; f++) {
    const t = (f - a) / span;
    const h = [
      2 * t ** 3 - 3 * t ** 2 + 1,
      t ** 3 - 2 * t ** 2 + t,
      -2 * t ** 3 + 3 * t ** 2,
      t ** 3 - t ** 2,
    ];
    const along = (key: 'x' | 'y') =>
      h[0] * p[key] + h[1] * span * u[key] + h[2] * q[key] + h[3] * span * v[key];
    samples.push({
      frame: f,
      x: along('x'),
      y: along('y'),
      confidence: BRIDGED_CONFIDENCE,
      state: 'bridged',
    });
  }
  return samples;
}

/** Pixels a frame at a sample, from it and the few beyond it on one side; level where there is none. */
function slope(track: Track, frame: number, side: 1 | -1): { x: number; y: number } {
  const near: FramedSample[] = [];
  for (let k = 0; k < SLOPE_SAMPLES; k++) {
    const s = sampleAt(track, frame + k * side);
    if (!s) break;
    near.push({ ...s, frame: frame + k * side });
  }
  if (near.length < 2) {
    // Sparse pins: the chord to the next sample on that side.
    for (let k = 1; k < 400; k++) {
      const s = sampleAt(track, frame + k * side);
      const here = sampleAt(track, frame)!;
      if (s) return { x: (s.x - here.x) / (k * side), y: (s.y - here.y) / (k * side) };
    }
    return { x: 0, y: 0 };
  }
  const mean = near.reduce((m, s) => m + s.frame, 0) / near.length;
  const square = near.reduce((m, s) => m + (s.frame - mean) ** 2, 0);
  const along = (key: 'x' | 'y') => near.reduce((m, s) => m + (s.frame - mean) * s[key], 0) / square;
  return { x: along('x'), y: along('y') };
}

/**
 * Takes the jitter out of samples placed by hand: the pins of a span are drawn towards a smooth curve through
 * themselves and their neighbours.
 *
 * @param amount  0 leaves them, 1 puts them on the smoothed curve
 * @param reach   sigma of the smoothing, in pins
 */
export function tame(track: Track, from: number, to: number, amount: number, reach = 2): Track {
  const pins = [...samplesOf(track)].filter((s) => s.state === 'pinned' && s.frame >= from && s.frame <= to);
  if (pins.length < 3 || amount <= 0) return track;
  const sx = smoothGaussian(
    pins.map((p) => p.x),
    reach,
  );
  const sy = smoothGaussian(
    pins.map((p) => p.y),
    reach,
  );
  const share = Math.min(1, amount);
  return withSamples(
    track,
    pins.map((p, i) => ({ ...p, x: p.x + share * (sx[i] - p.x), y: p.y + share * (sy[i] - p.y) })),
  );
}

/**
 * Moves every sample of a span by the same amount; used when the point that a path stands for is put elsewhere.
 */
export function shiftSamples(track: Track, from: number, to: number, dx: number, dy: number): Track {
  const moved = [...samplesOf(track)]
    .filter((s) => s.frame >= from && s.frame <= to)
    .map((s) => ({ ...s, x: s.x + dx, y: s.y + dy }));
  return withSamples(track, moved);
}
