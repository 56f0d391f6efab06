import { apply, type Matrix3, type Point } from './matrix.js';

/** Whether what lies inside is never measured, or nothing but that. */
export type AreaKind = 'ignore' | 'focus';

/** An area's shape as it was drawn on a frame. */
export interface AreaKey {
  readonly frame: number;
  /** Corners in source pixels, in order; three at the least, and as many as every other key has. */
  readonly shape: readonly (readonly [number, number])[];
}

/** A drawn closed shape, keyed over time. */
export interface Area {
  readonly kind: AreaKind;
  /** A smooth curve through its corners instead of straight lines. */
  readonly smooth: boolean;
  /** In the order of their frames; one at the least. */
  readonly keys: readonly AreaKey[];
}

/**
 * An area's corners on a frame: between two keys they go in a straight line, before the first and after the last they
 * stand. Where the area rides, keys are carried there first.
 *
 * @param carry  where something is on frame `to` that is at a place on frame `from`
 */
export function cornersAt(
  { keys }: Pick<Area, 'keys'>,
  frame: number,
  carry?: (from: number, to: number, at: Point) => Point,
): Point[] {
  const after = keys.findIndex((key) => key.frame >= frame);
  const next = keys[after < 0 ? keys.length - 1 : after];
  const last = keys[after < 0 ? keys.length - 1 : Math.max(0, next.frame === frame ? after : after - 1)];
  const t = next === last ? 0 : (frame - last.frame) / (next.frame - last.frame);
  const place = ({ frame: from, shape }: AreaKey, i: number): Point => {
    const at = { x: shape[i][0], y: shape[i][1] };
    return carry ? carry(from, frame, at) : at;
  };
  return last.shape.map((_, i) => {
    const a = place(last, i);
    if (t === 0) return a;
    const b = place(next, i);
    return { x: a.x + (b.x - a.x) * t, y: a.y + (b.y - a.y) * t };
  });
}

/** Straight pieces that stand for the curve from one corner to the next. */
const PIECES = 8;

/**
 * The outline of a shape: its corners, or a closed smooth curve through them in short straight pieces (Catmull and Rom
 * 1974, "A class of local interpolating splines", with a tension of a half).
 */
export function outlineOf(corners: readonly Point[], smooth: boolean): readonly Point[] {
  if (!smooth || corners.length < 3) return corners;
  const n = corners.length;
  const out: Point[] = [];
  for (let i = 0; i < n; i++) {
    const [p, a, b, q] = [-1, 0, 1, 2].map((d) => corners[(i + d + n) % n]);
    for (let k = 0; k < PIECES; k++) {
      const t = k / PIECES;
      const [w0, w1, w2, w3] = [
        ((2 - t) * t - 1) * t,
        (3 * t - 5) * t * t + 2,
        ((4 - 3 * t) * t + 1) * t,
        (t - 1) * t * t,
      ];
      out.push({
        x: (w0 * p.x + w1 * a.x + w2 * b.x + w3 * q.x) / 2,
        y: (w0 * p.y + w1 * a.y + w2 * b.y + w3 * q.y) / 2,
      });
    }
  }
  return out;
}

/** True when a place lies inside an outline, by the parity of the edges to its right. Cost: one comparison an edge. */
export function isInside(outline: readonly Point[], { x, y }: Point): boolean {
  let inside = false;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
    const [a, b] = [outline[i], outline[j]];
    if (a.y > y !== b.y > y && x < a.x + ((y - a.y) / (b.y - a.y)) * (b.x - a.x)) inside = !inside;
  }
  return inside;
}

/** What of a frame's picture is never measured. */
export interface Closed {
  readonly ignored: readonly (readonly Point[])[];
  /** Where there is one at the least, only the inside of these is measured. */
  readonly focus: readonly (readonly Point[])[];
}

/** The outlines of areas on a frame. */
export function closedOn(areas: readonly Area[], frame: number): Closed {
  const of = (kind: AreaKind) =>
    areas.filter((a) => a.kind === kind).map((a) => outlineOf(cornersAt(a, frame), a.smooth));
  return { ignored: of('ignore'), focus: of('focus') };
}

/** The same outlines where a homography takes them. */
export function movedBy(m: Matrix3, { ignored, focus }: Closed): Closed {
  const moved = (outlines: Closed['focus']) => outlines.map((o) => o.map((p) => apply(m, p.x, p.y)));
  return { ignored: moved(ignored), focus: moved(focus) };
}

/** True when a place may be measured. */
export function isOpen({ ignored, focus }: Closed, at: Point): boolean {
  return (focus.length === 0 || focus.some((o) => isInside(o, at))) && !ignored.some((o) => isInside(o, at));
}
