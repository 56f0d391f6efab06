import type { Point } from './matrix.js';

/**
 * The fewest corners of a drawn loop that no point of it strays from by more than so much (Ramer 1972, Douglas and
 * Peucker 1973).
 *
 * Cost: points x depth; a few hundred points take no time.
 */
export function simplified(loop: readonly Point[], stray: number): Point[] {
  if (loop.length < 3) return [...loop];
  // A loop has no ends: it is split where it is farthest from its first point.
  const far = loop.reduce(
    (best, p, i) => (distance(p, loop[0]) > distance(loop[best], loop[0]) ? i : best),
    0,
  );
  const halves = [loop.slice(0, far + 1), [...loop.slice(far), loop[0]]];
  return halves.flatMap((half) => open(half, stray).slice(0, -1));
}

function open(line: readonly Point[], stray: number): Point[] {
  if (line.length < 3) return [...line];
  const [a, b] = [line[0], line[line.length - 1]];
  let [at, most] = [0, 0];
  for (let i = 1; i < line.length - 1; i++) {
    const d = fromSegment(line[i], a, b);
    if (d > most) [at, most] = [i, d];
  }
  if (most <= stray) return [a, b];
  return [...open(line.slice(0, at + 1), stray).slice(0, -1), ...open(line.slice(at), stray)];
}

const distance = (p: Point, q: Point) => Math.hypot(p.x - q.x, p.y - q.y);

function fromSegment(p: Point, a: Point, b: Point): number {
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const length = dx * dx + dy * dy;
  const t = length === 0 ? 0 : Math.min(1, Math.max(0, ((p.x - a.x) * dx + (p.y - a.y) * dy) / length));
  return distance(p, { x: a.x + t * dx, y: a.y + t * dy });
}
