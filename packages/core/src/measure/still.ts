import { apply, type Matrix3 } from '../geometry/matrix.js';
import { sampleAt, type Track } from '../track/track.js';

export interface StillMeasure {
  /** Root mean square distance of the spots from their mean places, in pixels, as shot. */
  readonly before: number;
  /** The same after the correction. */
  readonly after: number;
  /** Distance per frame, in pixels, as shot and after; NaN where no spot was measured. */
  readonly beforeByFrame: Float64Array;
  readonly afterByFrame: Float64Array;
}

/** How far spots stray from standing still over frames `from` to `to`, before and after a correction. */
export function measureStill(
  tracks: readonly Track[],
  correction: (frame: number) => Matrix3,
  from: number,
  to: number,
): StillMeasure {
  const length = Math.max(0, to - from + 1);
  const squares = [new Float64Array(length), new Float64Array(length)];
  const counts = new Float64Array(length);
  const matrices = Array.from({ length }, (_, i) => correction(from + i));
  for (const track of tracks) {
    const means = [
      { x: 0, y: 0 },
      { x: 0, y: 0 },
    ];
    const places: ({ x: number; y: number }[] | null)[] = [];
    let n = 0;
    for (let i = 0; i < length; i++) {
      const s = sampleAt(track, from + i);
      places.push(s && [s, apply(matrices[i], s.x, s.y)]);
      places[i]?.forEach((p, k) => {
        means[k].x += p.x;
        means[k].y += p.y;
      });
      if (s) n++;
    }
    if (n === 0) continue;
    places.forEach((pair, i) => {
      if (!pair) return;
      counts[i]++;
      pair.forEach((p, k) => {
        squares[k][i] += (p.x - means[k].x / n) ** 2 + (p.y - means[k].y / n) ** 2;
      });
    });
  }
  const total = counts.reduce((a, b) => a + b, 0);
  const rms = (k: number) => Math.sqrt(squares[k].reduce((a, b) => a + b, 0) / total);
  const byFrame = (k: number) => squares[k].map((v, i) => (counts[i] ? Math.sqrt(v / counts[i]) : NaN));
  return { before: rms(0), after: rms(1), beforeByFrame: byFrame(0), afterByFrame: byFrame(1) };
}
