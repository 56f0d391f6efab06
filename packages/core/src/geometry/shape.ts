import { isClockwise, type Quad } from './homography.js';
import type { Point } from './matrix.js';

/** Twice the signed area inside an outline: positive where it goes clockwise on screen. */
export function signedArea(outline: readonly Point[]): number {
  let sum = 0;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++)
    sum += outline[j].x * outline[i].y - outline[i].x * outline[j].y;
  return sum / 2;
}

/** True when two stretches cross or touch, ends included. */
function cross(a: Point, b: Point, c: Point, d: Point): boolean {
  const side = (p: Point, q: Point, r: Point) =>
    Math.sign((q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x));
  const [p, q, r, s] = [side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)];
  return p !== q && r !== s && p * q <= 0 && r * s <= 0;
}

/** True when an outline crosses or touches itself. Cost: quadratic in its corners. */
export function crossesItself(outline: readonly Point[]): boolean {
  const n = outline.length;
  for (let i = 0; i < n; i++) {
    for (let j = i + 2; j < n; j++) {
      if (i === 0 && j === n - 1) continue;
      if (cross(outline[i], outline[i + 1], outline[j], outline[(j + 1) % n])) return true;
    }
  }
  return false;
}

/** Least area of a shape, in square pixels. */
const LEAST_AREA = 16;

/** What is wrong with a shape that something is to be measured in, as the end of a sentence; null where nothing is. */
export function faultOfOutline(outline: readonly Point[], width: number, height: number): string | null {
  if (outline.length < 3) return 'has fewer than three corners';
  if (crossesItself(outline)) return 'crosses itself';
  if (Math.abs(signedArea(outline)) < LEAST_AREA) return 'has no area';
  const [xs, ys] = [outline.map((p) => p.x), outline.map((p) => p.y)];
  if (Math.max(...xs) <= 0 || Math.max(...ys) <= 0 || Math.min(...xs) >= width || Math.min(...ys) >= height)
    return `lies outside the picture of ${width} x ${height} pixels`;
  return null;
}

/** What is wrong with four corners that are to stand for a rectangle on a plane; null where nothing is. */
export function faultOfQuad(quad: Quad): string | null {
  if (isClockwise(quad)) return null;
  if (isClockwise([...quad].reverse() as unknown as Quad))
    return 'is turned over: its corners must go clockwise from the top left';
  return 'is not convex: no rectangle on a flat surface looks like that';
}

/** Corners of an outline that are looked at when four are chosen of them. */
const MOST_CHOICES = 28;

/**
 * The four of an outline's corners that hold the most of it, clockwise from the top left: what a rectangle seen askew is
 * drawn round with. null where no four make a quad.
 *
 * Cost: the fourth power of the corners, of which no more than {@link MOST_CHOICES} are looked at.
 */
export function quadRound(outline: readonly Point[]): Quad | null {
  const turned = signedArea(outline) < 0 ? [...outline].reverse() : [...outline];
  const step = Math.max(1, turned.length / MOST_CHOICES);
  const places = Array.from(
    { length: Math.floor(turned.length / step) },
    (_, i) => turned[Math.floor(i * step)],
  );
  const n = places.length;
  let best: Quad | null = null;
  let most = 0;
  for (let a = 0; a < n - 3; a++)
    for (let b = a + 1; b < n - 2; b++)
      for (let c = b + 1; c < n - 1; c++)
        for (let d = c + 1; d < n; d++) {
          const quad = [places[a], places[b], places[c], places[d]] as const;
          const area = signedArea(quad);
          if (area <= most || !isClockwise(quad)) continue;
          most = area;
          best = quad;
        }
  if (!best) return null;
  const quad: Quad = best;
  const first = quad.reduce((f, p, i) => (p.x + p.y < quad[f].x + quad[f].y ? i : f), 0);
  return [0, 1, 2, 3].map((k) => quad[(first + k) % 4]) as unknown as Quad;
}
