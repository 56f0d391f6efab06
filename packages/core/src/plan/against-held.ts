import { apply, type Matrix3 } from '../geometry/matrix.js';
import { sampleIndex } from '../scene/scene-tracks.js';
import type { AnalysedScene } from '../solve/analysed.js';

/** How another mover still moves in the steadied picture. */
export interface AgainstHeld {
  readonly id: string;
  readonly name: string;
  /** Root mean square distance of its tracks from their means, in pixels. */
  readonly rms: number;
  /** The same frame by frame, on the frames of the range; NaN where it is not seen. */
  readonly byFrame: Float64Array;
}

/**
 * How far the movers that are not held stray in the steadied picture, measured on all of their tracks: what is nearer or
 * farther slides, what moves by itself moves. What is laid over the picture is left out.
 *
 * @param corrections  S of every frame
 * @param held         place of what is held in the scene's list; -1 for none of them
 */
export function againstHeld(
  { tracks, movers, moverOf }: AnalysedScene,
  corrections: readonly Matrix3[],
  held: number,
  from: number,
  to: number,
): AgainstHeld[] {
  const length = Math.max(0, to - from + 1);
  const sums = movers.map(() => ({ squares: new Float64Array(length), counts: new Float64Array(length) }));
  for (let k = 0; k < moverOf.length; k++) {
    const m = moverOf[k];
    if (m < 0 || m === held || movers[m].overlay) continue;
    const places: { i: number; x: number; y: number }[] = [];
    for (let f = Math.max(from, tracks.start[k]); f <= to; f++) {
      const at = sampleIndex(tracks, k, f);
      if (at < 0) continue;
      const p = apply(corrections[f], tracks.x[at], tracks.y[at]);
      places.push({ i: f - from, ...p });
    }
    if (places.length < 3) continue;
    const x = places.reduce((s, p) => s + p.x, 0) / places.length;
    const y = places.reduce((s, p) => s + p.y, 0) / places.length;
    for (const p of places) {
      sums[m].squares[p.i] += (p.x - x) ** 2 + (p.y - y) ** 2;
      sums[m].counts[p.i]++;
    }
  }
  return movers.flatMap(({ id, name }, m) => {
    const { squares, counts } = sums[m];
    const n = counts.reduce((a, b) => a + b, 0);
    if (n === 0) return [];
    const rms = Math.sqrt(squares.reduce((a, b) => a + b, 0) / n);
    return [{ id, name, rms, byFrame: squares.map((s, i) => (counts[i] ? Math.sqrt(s / counts[i]) : NaN)) }];
  });
}
