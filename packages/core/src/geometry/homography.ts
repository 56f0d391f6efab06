import { apply, invert, multiply, type Matrix3, type Point } from './matrix.js';

/** Four corners, clockwise on screen from the top left. */
export type Quad = readonly [Point, Point, Point, Point];

/**
 * The homography that takes the corners of the unit square, clockwise from the origin, to a quad (Heckbert 1989,
 * "Fundamentals of texture mapping and image warping", section 2.2.3).
 *
 * @returns null where three of the corners lie on a line
 */
export function squareToQuad([a, b, c, d]: Quad): Matrix3 | null {
  const [dx1, dy1] = [b.x - c.x, b.y - c.y];
  const [dx2, dy2] = [d.x - c.x, d.y - c.y];
  const [sx, sy] = [a.x - b.x + c.x - d.x, a.y - b.y + c.y - d.y];
  const det = dx1 * dy2 - dx2 * dy1;
  if (det === 0) return null;
  const g = (sx * dy2 - dx2 * sy) / det;
  const h = (dx1 * sy - sx * dy1) / det;
  return [
    b.x - a.x + g * b.x,
    d.x - a.x + h * d.x,
    a.x,
    b.y - a.y + g * b.y,
    d.y - a.y + h * d.y,
    a.y,
    g,
    h,
    1,
  ];
}

/** The homography that takes one quad to another; null where one of them has three corners on a line. */
export function quadToQuad(from: Quad, to: Quad): Matrix3 | null {
  const [a, b] = [squareToQuad(from), squareToQuad(to)];
  if (!a || !b) return null;
  try {
    return multiply(b, invert(a));
  } catch {
    return null;
  }
}

/** Where a homography takes a quad. */
export function moveQuad(m: Matrix3, quad: Quad): Quad {
  return quad.map((p) => apply(m, p.x, p.y)) as unknown as Quad;
}

/** The corners of a rectangle, clockwise from the top left. */
export function rectangle(left: number, top: number, right: number, bottom: number): Quad {
  return [
    { x: left, y: top },
    { x: right, y: top },
    { x: right, y: bottom },
    { x: left, y: bottom },
  ];
}

/** True of a quad whose corners all turn the same way, clockwise on screen, each by more than nothing. */
export function isClockwise(quad: Quad): boolean {
  return quad.every((p, i) => {
    const [q, r] = [quad[(i + 1) % 4], quad[(i + 2) % 4]];
    const [ux, uy, vx, vy] = [q.x - p.x, q.y - p.y, r.x - q.x, r.y - q.y];
    return ux * vy - uy * vx > 1e-9 * Math.hypot(ux, uy) * Math.hypot(vx, vy);
  });
}

/**
 * True when a homography has places in front of the camera only, with room to spare: nothing turns over, and the horizon
 * is not near.
 *
 * @param least  how near the nearest of the places may be, against the farthest
 */
export function staysInFront(m: Matrix3, places: readonly Point[], least = 0.02): boolean {
  let [low, high] = [Infinity, -Infinity];
  for (const { x, y } of places) {
    const w = m[6] * x + m[7] * y + m[8];
    low = Math.min(low, w);
    high = Math.max(high, w);
  }
  return m.every(Number.isFinite) && low > least * high;
}

/** True when a homography takes places to where they can be seen: in front of the camera, and near enough to it. */
export function isFacing(m: Matrix3, places: readonly Point[]): boolean {
  return staysInFront(m, places, 1e-3);
}

/** The affine map that touches a homography at a place: how it moves, turns and grows what is near it. */
export function tangentAt(m: Matrix3, { x, y }: Point): Matrix3 {
  const w = m[6] * x + m[7] * y + m[8];
  const p = apply(m, x, y);
  const [a, b] = [(m[0] - p.x * m[6]) / w, (m[1] - p.x * m[7]) / w];
  const [d, e] = [(m[3] - p.y * m[6]) / w, (m[4] - p.y * m[7]) / w];
  return [a, b, p.x - a * x - b * y, d, e, p.y - d * x - e * y, 0, 0, 1];
}

/** The same homography with the weight of a place equal to 1; itself where that cannot be. */
export function normalisedAt(m: Matrix3, { x, y }: Point): Matrix3 {
  const w = m[6] * x + m[7] * y + m[8];
  return w === 0 || !Number.isFinite(w) ? m : (m.map((v) => v / w) as unknown as Matrix3);
}
