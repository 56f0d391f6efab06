import type { Point } from './matrix.js';

/** The places that lie nearest to one, the nearest first, by their numbers. Cost: sorting all. */
export function nearestTo(
  at: Point,
  places: readonly (Point | null)[],
  count: number,
): { readonly i: number; readonly d: number }[] {
  return places
    .flatMap((p, i) => (p ? [{ i, d: Math.hypot(p.x - at.x, p.y - at.y) }] : []))
    .sort((a, b) => a.d - b.d)
    .slice(0, count);
}

/**
 * How a place moves with others: the affine map that fits them best where it is, each counting by its nearness (moving
 * least squares; Schaefer, McPhail and Warren 2006), as weights of theirs.
 *
 * @param near  how far, in pixels, those about it count nearly alike
 * @returns one weight for each of `from`; where it goes is the sum of where they go by these
 */
export function movingWeights(at: Point, from: readonly Point[], near: number): Float64Array {
  const n = from.length;
  const out = new Float64Array(n);
  let [total, cx, cy] = [0, 0, 0];
  const soft = near * near;
  for (let i = 0; i < n; i++) {
    const [dx, dy] = [from[i].x - at.x, from[i].y - at.y];
    const w = 1 / (dx * dx + dy * dy + soft) ** 2;
    out[i] = w;
    total += w;
    cx += w * from[i].x;
    cy += w * from[i].y;
  }
  cx /= total;
  cy /= total;
  let [xx, xy, yy] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const [dx, dy] = [from[i].x - cx, from[i].y - cy];
    const w = (out[i] /= total);
    xx += w * dx * dx;
    xy += w * dx * dy;
    yy += w * dy * dy;
  }
  // What lies along a line tells nothing across it: there it goes as if it did not turn.
  const hold = 1e-7 * (xx + yy) + 1e-12;
  const [a, d] = [xx + hold, yy + hold];
  const det = a * d - xy * xy;
  const [ex, ey] = [at.x - cx, at.y - cy];
  const [gx, gy] = [(d * ex - xy * ey) / det, (a * ey - xy * ex) / det];
  for (let i = 0; i < n; i++) out[i] *= 1 + gx * (from[i].x - cx) + gy * (from[i].y - cy);
  return out;
}
