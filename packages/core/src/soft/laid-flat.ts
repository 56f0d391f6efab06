import { LurnError } from '../errors.js';
import { isClockwise, quadToQuad, rectangle, staysInFront, type Quad } from '../geometry/homography.js';
import { apply, type Point } from '../geometry/matrix.js';
import { bordersOf, faceGrowth, type Mesh } from '../geometry/mesh.js';

/** What a soft surface is laid flat to, where that is not how it lies on a frame: a rectangle. */
export interface FlatShape {
  /** Where the rectangle's corners lie on the surface's own frame, clockwise from the top left. */
  readonly corners: Quad;
  /** True: the mesh's border is straightened along the rectangle's sides; false: it is seen from straight ahead. */
  readonly straight: boolean;
}

/** Rounds in which the inner vertices settle, at the most, and what they move by once they have. */
const [ROUNDS, SETTLED] = [4000, 1e-7];

/**
 * Where the vertices of a mesh are once it is laid flat to a rectangle. That is as large as its sides are on the own
 * frame, upright, and about the same middle.
 *
 * Straightened, the border runs along the sides, each by its length, and the inner vertices go by the patch that the sides
 * span; where that is folded, each is the mean of its neighbours by mean value coordinates (Floater 2003).
 *
 * @throws LurnError `flat-corners` where the corners do not stand clockwise round something, or fit no place of the border
 *         each; `flat-horizon` where some of the mesh would lie beyond what can be seen
 */
export function laidFlat(mesh: Mesh, { corners, straight }: FlatShape): Point[] {
  if (!isClockwise(corners))
    throw new LurnError(
      'flat-corners',
      'The four corners do not go round clockwise from the top left. Drag them apart.',
    );
  const target = rectangleOf(corners);
  return straight ? straightened(mesh, corners, target) : fromAhead(mesh, corners, target);
}

/** As large as the quad's sides are in the mean, upright, about the same middle. */
function rectangleOf([a, b, c, d]: Quad): Quad {
  const side = (p: Point, q: Point) => Math.hypot(q.x - p.x, q.y - p.y);
  const [w, h] = [(side(a, b) + side(d, c)) / 2, (side(a, d) + side(b, c)) / 2];
  const [x, y] = [(a.x + b.x + c.x + d.x) / 4, (a.y + b.y + c.y + d.y) / 4];
  return rectangle(x - w / 2, y - h / 2, x + w / 2, y + h / 2);
}

function fromAhead({ vertices }: Mesh, corners: Quad, target: Quad): Point[] {
  const m = quadToQuad(corners, target);
  if (!m || !staysInFront(m, vertices))
    throw new LurnError(
      'flat-horizon',
      'Seen from straight ahead some of the mesh would lie behind the camera. Set the corners nearer to a rectangle.',
    );
  return vertices.map(({ x, y }) => apply(m, x, y));
}

function straightened(mesh: Mesh, corners: Quad, target: Quad): Point[] {
  const { vertices, faces } = mesh;
  const [border] = bordersOf(faces).sort((a, b) => b.length - a.length);
  const own = corners.map((c) => nearestOn(border ?? [], vertices, c));
  const turn = own.map((i) => (i - own[0] + border.length) % border.length);
  if (new Set(own).size < 4 || !(turn[1] < turn[2] && turn[2] < turn[3]))
    throw new LurnError(
      'flat-corners',
      'Each of the four corners must be at another place of the border, in turn. Drag them to its corners.',
    );
  // In parts of the rectangle's sides.
  const out = vertices.map((p) => ({ ...p }));
  const fixed = new Uint8Array(vertices.length);
  const sides = SQUARE.map((from, side) => {
    const run: number[] = [];
    for (let i = own[side]; ; i = (i + 1) % border.length) {
      run.push(border[i]);
      if (i === own[(side + 1) % 4]) break;
    }
    for (const v of run) fixed[v] = 1;
    return alongSide(run, vertices, from, SQUARE[(side + 1) % 4], out);
  });
  settle(mesh, out, fixed);
  const blended = throughPatch(mesh, sides, out, fixed);
  const turns = (at: readonly Point[]) => faces.some((face) => faceGrowth(face, vertices, at) <= 0);
  const parts = blended && !turns(blended) ? blended : out;
  if (turns(parts))
    throw new LurnError(
      'flat-corners',
      'Straightened like this a part of the mesh would turn over. Drag the corners to those of its outline.',
    );
  const [{ x: left, y: top }, , { x: right, y: bottom }] = target;
  return parts.map(({ x, y }) => ({ x: left + x * (right - left), y: top + y * (bottom - top) }));
}

const SQUARE = rectangle(0, 0, 1, 1);

/** The place of the border that is nearest to a point. */
function nearestOn(border: readonly number[], at: readonly Point[], { x, y }: Point): number {
  let [best, least] = [0, Infinity];
  border.forEach((v, i) => {
    const d = Math.hypot(at[v].x - x, at[v].y - y);
    if (d < least) [best, least] = [i, d];
  });
  return best;
}

/** A run of the border as a curve over 0 to 1, by its length. */
type Curve = (t: number) => Point;

/** Puts a run of vertices along a side, each as far as it is along the run. @returns the run as it was, as a curve */
function alongSide(run: readonly number[], from: readonly Point[], a: Point, b: Point, out: Point[]): Curve {
  const ways = [0];
  for (let i = 1; i < run.length; i++) {
    const [p, q] = [from[run[i - 1]], from[run[i]]];
    ways.push(ways[i - 1] + Math.hypot(q.x - p.x, q.y - p.y));
  }
  const whole = ways[ways.length - 1];
  run.forEach((v, i) => {
    const t = ways[i] / whole;
    out[v] = { x: a.x + t * (b.x - a.x), y: a.y + t * (b.y - a.y) };
  });
  return (t) => {
    let i = 1;
    while (i < ways.length - 1 && ways[i] < t * whole) i++;
    const [p, q] = [from[run[i - 1]], from[run[i]]];
    const part = (t * whole - ways[i - 1]) / (ways[i] - ways[i - 1]);
    return { x: p.x + part * (q.x - p.x), y: p.y + part * (q.y - p.y) };
  };
}

/** Newton's steps, and the step of its differences. */
const [STEPS, HAIR] = [30, 1e-4];
/** It is found where it is so near, in pixels. */
const NEAR = 1e-3;

/**
 * Where the free vertices lie in the bilinearly blended patch that the four sides span (Coons 1967): a bent sheet is as
 * bent within as at its border. Null where the patch is folded there.
 *
 * @param start  places in the unit square to begin with
 */
function throughPatch(
  { vertices }: Mesh,
  [top, right, bottom, left]: readonly Curve[],
  start: readonly Point[],
  fixed: Uint8Array,
): Point[] | null {
  const [a, b, c, d] = [top(0), top(1), right(1), bottom(1)];
  const patch = (u: number, v: number): Point => {
    const [n, e, s, w] = [top(u), right(v), bottom(1 - u), left(1 - v)];
    const blend = (k: 'x' | 'y') =>
      (1 - v) * n[k] + v * s[k] + (1 - u) * w[k] + u * e[k] -
      ((1 - u) * (1 - v) * a[k] + u * (1 - v) * b[k] + u * v * c[k] + (1 - u) * v * d[k]); // prettier-ignore
    return { x: blend('x'), y: blend('y') };
  };
  const out: Point[] = [];
  for (const [i, to] of vertices.entries()) {
    let { x: u, y: v } = start[i];
    let off = fixed[i] ? 0 : Infinity;
    for (let step = 0; step < STEPS && off > NEAR; step++) {
      const p = patch(u, v);
      const [pu, pv] = [patch(u + HAIR, v), patch(u, v + HAIR)];
      const [xu, yu] = [(pu.x - p.x) / HAIR, (pu.y - p.y) / HAIR];
      const [xv, yv] = [(pv.x - p.x) / HAIR, (pv.y - p.y) / HAIR];
      const det = xu * yv - xv * yu;
      const [dx, dy] = [to.x - p.x, to.y - p.y];
      off = Math.hypot(dx, dy);
      if (!(det > 0)) return null;
      u = Math.min(1, Math.max(0, u + (yv * dx - xv * dy) / det));
      v = Math.min(1, Math.max(0, v + (xu * dy - yu * dx) / det));
    }
    // A side of short stretches lets it swing between two of them.
    if (off > SWINGS) return null;
    out.push({ x: u, y: v });
  }
  return out;
}

/** So far off, in pixels, a place in the patch is taken. */
const SWINGS = 0.5;

/** Every free vertex becomes the mean of its neighbours by mean value coordinates; Gauss-Seidel. */
function settle({ vertices, faces }: Mesh, out: Point[], fixed: Uint8Array): void {
  const shares = vertices.map(() => new Map<number, number>());
  for (const face of faces) {
    face.forEach((v, i) => {
      const [p, q] = [face[(i + 1) % face.length], face[(i + face.length - 1) % face.length]];
      const [dp, dq] = [p, q].map((n) =>
        Math.hypot(vertices[n].x - vertices[v].x, vertices[n].y - vertices[v].y),
      );
      const cross =
        (vertices[p].x - vertices[v].x) * (vertices[q].y - vertices[v].y) -
        (vertices[p].y - vertices[v].y) * (vertices[q].x - vertices[v].x);
      const dot =
        (vertices[p].x - vertices[v].x) * (vertices[q].x - vertices[v].x) +
        (vertices[p].y - vertices[v].y) * (vertices[q].y - vertices[v].y);
      const half = Math.tan(Math.abs(Math.atan2(cross, dot)) / 2);
      shares[v].set(p, (shares[v].get(p) ?? 0) + half / dp);
      shares[v].set(q, (shares[v].get(q) ?? 0) + half / dq);
    });
  }
  const free = vertices.flatMap((_, v) =>
    !fixed[v] && shares[v].size > 0 ? [[v, [...shares[v]]] as const] : [],
  );
  for (let round = 0; round < ROUNDS; round++) {
    let most = 0;
    for (const [v, near] of free) {
      let [x, y, all] = [0, 0, 0];
      for (const [n, share] of near) {
        x += share * out[n].x;
        y += share * out[n].y;
        all += share;
      }
      [x, y] = [x / all, y / all];
      most = Math.max(most, Math.abs(x - out[v].x), Math.abs(y - out[v].y));
      out[v] = { x, y };
    }
    if (most < SETTLED) return;
  }
}
