import type { Point } from '../geometry/matrix.js';
import type { PlaceOf } from './prediction.js';

/**
 * From a frame on, a spot's patch lies on another feature of the same thing, and its path goes on as if the first
 * were still there.
 */
export interface Join {
  readonly frame: number;
  /** From the path to the patch on that frame, in pixels. */
  readonly dx: number;
  readonly dy: number;
  /** Another spot on the same thing: turns and grows the offset with it; null keeps the offset as it is. */
  readonly companion: string | null;
}

/** The join that holds on a frame: the latest at or before it; null where the patch lies on its first feature. */
export function joinOn(joins: readonly Join[], frame: number): Join | null {
  let best: Join | null = null;
  for (const join of joins) if (join.frame <= frame && (!best || join.frame > best.frame)) best = join;
  return best;
}

/** Where the patch lies when the path is at `path`. */
export function patchPlace(
  join: Join | null,
  path: Point,
  pathAtJoin: Point | null,
  frame: number,
  companion?: PlaceOf,
): Point {
  if (!join) return path;
  const turn = turned(join, companion, frame, pathAtJoin, path);
  return {
    x: path.x + turn[0] * join.dx - turn[1] * join.dy,
    y: path.y + turn[1] * join.dx + turn[0] * join.dy,
  };
}

/** Where the path is when the patch was found at `patch`; the inverse of {@link patchPlace}. */
export function pathPlace(
  join: Join | null,
  patch: Point,
  pathAtJoin: Point | null,
  frame: number,
  companion?: PlaceOf,
): Point {
  if (!join) return patch;
  const atJoin = pathAtJoin && { x: pathAtJoin.x + join.dx, y: pathAtJoin.y + join.dy };
  const turn = turned(join, companion, frame, atJoin, patch);
  return {
    x: patch.x - turn[0] * join.dx + turn[1] * join.dy,
    y: patch.y - turn[1] * join.dx - turn[0] * join.dy,
  };
}

/** Cosine and sine, times the growth, of what the companion has done about a point since the join. */
function turned(
  join: Join,
  companion: PlaceOf | undefined,
  frame: number,
  pointAtJoin: Point | null,
  point: Point,
): readonly [number, number] {
  const [a, b] = [companion?.(join.frame), companion?.(frame)];
  if (!a || !b || !pointAtJoin) return [1, 0];
  const [ux, uy] = [a.x - pointAtJoin.x, a.y - pointAtJoin.y];
  const [vx, vy] = [b.x - point.x, b.y - point.y];
  const square = ux * ux + uy * uy;
  if (square < 100) return [1, 0]; // too near to tell a turn by
  return [(ux * vx + uy * vy) / square, (ux * vy - uy * vx) / square];
}
