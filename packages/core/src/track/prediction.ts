import type { Point } from '../geometry/matrix.js';
import { apply } from '../geometry/matrix.js';
import { fitSimilarity, type Correspondence } from '../geometry/similarity.js';

/** A feature's place on a frame. */
export interface Placed extends Point {
  readonly frame: number;
}

/** Places that a straight prediction looks back on. */
const LOOK_BACK = 10;
/** ... each counting by so much less than the one after it. */
const FADING = 0.85;
/** Spots move together when one is predicted from the others within this root mean square error, in pixels. */
const TOGETHER = 1.2;

/**
 * Where a feature will be on a frame if it goes on as it went: a weighted straight line through its last places,
 * the latest counting most.
 *
 * @param past  latest last; at least one
 */
export function goOn(past: readonly Placed[], frame: number): Point {
  const first = Math.max(0, past.length - LOOK_BACK);
  const last = past[past.length - 1];
  let [sw, st, stt, sx, sy, stx, sty] = [0, 0, 0, 0, 0, 0, 0];
  for (let i = past.length - 1, w = 1; i >= first; i--, w *= FADING) {
    const p = past[i];
    const t = p.frame - last.frame;
    sw += w;
    st += w * t;
    stt += w * t * t;
    sx += w * p.x;
    sy += w * p.y;
    stx += w * t * p.x;
    sty += w * t * p.y;
  }
  const det = sw * stt - st * st;
  if (det < 1e-9) return { x: last.x, y: last.y };
  const [vx, vy] = [(sw * stx - st * sx) / det, (sw * sty - st * sy) / det];
  // From the last place, not from the line: what is left of the line's misfit is shake, and would be a jump.
  return { x: last.x + vx * (frame - last.frame), y: last.y + vy * (frame - last.frame) };
}

/** A feature's place on a frame, or null where it is not known for sure. */
export type PlaceOf = (frame: number) => Point | null;

/**
 * Where a feature is if it moves with others: the similarity (of two or more; a shift of one) that took them from a
 * frame on which it was seen to the present one, applied to its place there. null when they cannot tell, or when
 * they did not move together before.
 *
 * @param past  places of the feature itself, latest last; the last is the one carried over
 */
export function withOthers(past: readonly Placed[], others: readonly PlaceOf[], frame: number): Point | null {
  const from = past[past.length - 1];
  // Those that are seen now are those to be tested: two may know a turn that one does not.
  const present = others.filter((placeOf) => placeOf(frame) && placeOf(from.frame));
  const test = past.slice(-LOOK_BACK - 1, -1);
  if (test.length < 3) return null;
  let sum = 0;
  let count = 0;
  for (const p of test) {
    const predicted = carried(from, present, p.frame);
    if (!predicted) continue;
    sum += (predicted.x - p.x) ** 2 + (predicted.y - p.y) ** 2;
    count++;
  }
  if (count < 3 || Math.sqrt(sum / count) > TOGETHER) return null;
  return carried(from, present, frame);
}

function carried(from: Placed, others: readonly PlaceOf[], frame: number): Point | null {
  const pairs: Correspondence[] = [];
  for (const placeOf of others) {
    const [a, b] = [placeOf(from.frame), placeOf(frame)];
    if (a && b) pairs.push({ fromX: a.x, fromY: a.y, toX: b.x, toY: b.y, weight: 1 });
  }
  if (pairs.length === 0) return null;
  if (pairs.length === 1) {
    const [p] = pairs;
    return { x: from.x + p.toX - p.fromX, y: from.y + p.toY - p.fromY };
  }
  const motion = fitSimilarity(pairs);
  return motion && apply(motion, from.x, from.y);
}
