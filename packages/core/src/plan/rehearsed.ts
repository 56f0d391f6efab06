import { apply, invert, type Point } from '../geometry/matrix.js';
import { sampleIndex, trackEnd } from '../scene/scene-tracks.js';
import type { AnalysedScene } from '../solve/analysed.js';
import { perspectiveOfMover } from '../solve/perspective.js';
import { motionMatrix } from '../solve/motion.js';

/** A place that a feature of the scene has been followed from. */
export interface Rehearsed extends Point {
  /** Frames of the range on which it was seen. */
  readonly life: number;
  /** Root mean square distance, in pixels, from where the mover's motion puts it. */
  readonly error: number;
}

export interface RehearsedRequest {
  readonly frame: number;
  readonly from: number;
  readonly to: number;
  /** Place of the mover in the scene's list. */
  readonly mover: number;
  readonly count: number;
  /** Left, top, right, bottom in pixels; null for the whole picture. */
  readonly within: readonly [number, number, number, number] | null;
  readonly taken: readonly Point[];
  /** Half-size of the patches that will be placed, in pixels: they keep clear of other movers, and of the rim. */
  readonly patch: number;
}

/** A feature that was not followed on this share of the longest life is suggested only where no other is. */
const LONG = 0.8;
/** Features farther off than this, in pixels of a picture of 540 lines, do not move with the mover well enough. */
const WELL = 0.6;
/** Other movers keep away by so many half-sizes of the patch. */
const CLEAR = 2;

/**
 * The features of a mover that hold best, of those that have been followed over the range: long-lived, true to its
 * motion, clear of what moves otherwise, and far apart.
 */
export function rehearsed(scene: AnalysedScene, request: RehearsedRequest): Rehearsed[] {
  const { tracks, moverOf, motions, size } = scene;
  const { frame, from, to, mover, count, within, taken, patch } = request;
  const motion = motions[mover];
  if (!motion) return [];
  const perspective = perspectiveOfMover(scene, mover);
  const matrixOn = (f: number) => perspective?.matrices[f] ?? motionMatrix(motion, f);
  const [left, top, right, bottom] = within ?? [patch, patch, size.width - patch, size.height - patch];
  const others: Point[] = [];
  const own: number[] = [];
  for (let k = 0; k < moverOf.length; k++) {
    const at = sampleIndex(tracks, k, frame);
    if (at < 0) continue;
    if (moverOf[k] === mover) own.push(k);
    else others.push({ x: tracks.x[at], y: tracks.y[at] });
  }
  const near = (p: Point, q: Point, d: number) => (p.x - q.x) ** 2 + (p.y - q.y) ** 2 < d * d;
  const candidates: Rehearsed[] = [];
  for (const k of own) {
    const at = sampleIndex(tracks, k, frame);
    const place = { x: tracks.x[at], y: tracks.y[at] };
    if (place.x < left || place.x > right || place.y < top || place.y > bottom) continue;
    if (others.some((o) => near(o, place, CLEAR * patch))) continue;
    const home = apply(invert(matrixOn(frame)), place.x, place.y);
    let [n, sx, sy, sxx] = [0, 0, 0, 0];
    const end = Math.min(to + 1, trackEnd(tracks, k));
    for (let f = Math.max(from, tracks.start[k]); f < end; f++) {
      const i = sampleIndex(tracks, k, f);
      if (i < 0 || motion.support[f] !== 'full') continue;
      const p = apply(matrixOn(f), home.x, home.y);
      const [dx, dy] = [tracks.x[i] - p.x, tracks.y[i] - p.y];
      n++;
      sx += dx;
      sy += dy;
      sxx += dx * dx + dy * dy;
    }
    if (n < 3) continue;
    // About their mean: where it is on this one frame is not certain either.
    const error = Math.sqrt(Math.max(0, sxx / n - (sx / n) ** 2 - (sy / n) ** 2));
    if (error < (WELL * Math.max(size.height, 540)) / 540) candidates.push({ ...place, life: n, error });
  }
  const longest = candidates.reduce((most, c) => Math.max(most, c.life), 0);
  // Long lives first, the truest of them first.
  const worth = (c: Rehearsed) => Math.min(1, c.life / (LONG * longest)) / (0.05 + c.error);
  candidates.sort((a, b) => worth(b) - worth(a));
  const area = Math.max(1, (right - left) * (bottom - top));
  for (let apart = Math.sqrt(area / count); ; apart *= 0.7) {
    const chosen: Rehearsed[] = [];
    for (const c of candidates) {
      if (chosen.length === count) break;
      if ([...chosen, ...taken].every((q) => !near(q, c, apart))) chosen.push(c);
    }
    if (chosen.length === Math.min(count, candidates.length) || apart < 3 * patch) return chosen;
  }
}
