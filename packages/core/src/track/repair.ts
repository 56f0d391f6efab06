import { LurnError } from '../errors.js';
import { smoothGaussian } from '../smooth/gaussian.js';
import { measuredEnd } from './measured.js';
import { pinFrames, sampleAt, withSamples, type FramedSample, type Sample, type Track } from './track.js';

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
  const firm = (f: number) => firmAt(track, f);
  for (let f = Math.max(from, track.start); f <= Math.min(to, measuredEnd(track) - 1); f++) {
    if (firm(f)) continue;
    let a = f;
    let b = f;
    while (a >= track.start && !firm(a)) a--;
    while (b < measuredEnd(track) && !firm(b)) b++;
    if (a < track.start || b >= measuredEnd(track)) continue;
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

/** The sample on a frame, where it was measured or put by hand; what was predicted tells nothing of how it went. */
function firmAt(track: Track, frame: number): Sample | null {
  const s = sampleAt(track, frame);
  return s && s.state !== 'coasted' && s.state !== 'bridged' ? s : null;
}

/** Bridged samples on the frames strictly between two that have a sample. */
function curve(track: Track, a: number, b: number): FramedSample[] {
  const [p, q] = [sampleAt(track, a)!, sampleAt(track, b)!];
  const span = b - a;
  const [u, v] = [slope(track, a, -1, b), slope(track, b, 1, a)];
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

/**
 * Pixels a frame at one end of a gap: of the few samples beyond it on its own side, or where these are sparse, of the
 * chord from the next sample there to the gap's other end (Catmull and Rom 1974).
 */
function slope(track: Track, frame: number, side: 1 | -1, otherEnd: number): { x: number; y: number } {
  const near: FramedSample[] = [];
  for (let k = 0; k < SLOPE_SAMPLES; k++) {
    const s = firmAt(track, frame + k * side);
    if (!s) break;
    near.push({ ...s, frame: frame + k * side });
  }
  if (near.length >= 2) {
    const mean = near.reduce((m, s) => m + s.frame, 0) / near.length;
    const square = near.reduce((m, s) => m + (s.frame - mean) ** 2, 0);
    const along = (key: 'x' | 'y') => near.reduce((m, s) => m + (s.frame - mean) * s[key], 0) / square;
    return { x: along('x'), y: along('y') };
  }
  let beyond = frame + side;
  while (beyond >= track.start && beyond < measuredEnd(track) && !firmAt(track, beyond)) beyond += side;
  const [from, to] = [firmAt(track, beyond) ? beyond : frame, otherEnd];
  const [p, q] = [sampleAt(track, from)!, sampleAt(track, to)!];
  return { x: (q.x - p.x) / (to - from), y: (q.y - p.y) / (to - from) };
}

/**
 * Takes the jitter out of samples placed by hand: the pins of a span are drawn towards a smooth curve through
 * themselves and their neighbours.
 *
 * @param amount  0 leaves them, 1 puts them on the smoothed curve
 * @param reach   sigma of the smoothing, in pins
 */
export function tame(track: Track, from: number, to: number, amount: number, reach = 2): Track {
  const pins = pinFrames(track)
    .filter((f) => f >= from && f <= to)
    .map((frame) => ({ frame, ...sampleAt(track, frame)! }));
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
