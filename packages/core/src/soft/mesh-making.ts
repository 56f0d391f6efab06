import { Delaunay } from 'd3-delaunay';
import { LurnError } from '../errors.js';
import { isInside } from '../geometry/area.js';
import type { Point } from '../geometry/matrix.js';
import {
  checkOutline,
  edgesOf,
  FEWEST_VERTICES,
  MOST_MESH_VERTICES,
  twiceArea,
  type Mesh,
} from '../geometry/mesh.js';
import type { Plane } from '../picture/plane.js';
import { smallestEigenvalue } from '../track/alignment.js';

export interface MeshPlan {
  readonly outline: readonly Point[];
  /** What is cut out of it. */
  readonly holes?: readonly (readonly Point[])[];
  /** How far points are apart, in pixels. */
  readonly spacing: number;
  /** `even`: everywhere alike; `texture`: where there is something to hold, fewer where there is nothing. */
  readonly fit: 'even' | 'texture';
}

/** A corner that turns by more than this, in radians, keeps its place. */
const TURN = 0.35;
/** Points within lie no nearer to the border than this part of the spacing, and no nearer to each other than that. */
const [FROM_BORDER, APART] = [0.55, 0.72];
/** Where there is nothing to hold, points are so many times as far apart. */
const SPARSE = 1.8;
/** Texture that is weaker than this part of the usual is nothing to hold. */
const NOTHING = 0.12;
/** Rounds in which a border that the triangles do not keep is divided further. */
const ROUNDS = 6;
/** Two triangles are told as one quad when none of its angles is farther from a right one, in radians. */
const ASKEW = 0.75;

/**
 * A mesh that fills an outline: points along it and in it, triangles between them (Delaunay 1934), the border kept whole,
 * and quads in place of two triangles where they can be.
 *
 * @param plane  the picture, for a mesh by texture
 * @throws LurnError `outline-small`, `outline-crossed`, `mesh-small`, `mesh-large`
 */
export function makeMesh(plan: MeshPlan, plane?: Plane): Mesh {
  const { outline, holes = [], spacing, fit } = plan;
  [outline, ...holes].forEach(checkOutline);
  const estimate = Math.abs(twiceArea(outline)) / 2 / (spacing * spacing);
  if (estimate > 2 * MOST_MESH_VERTICES) throw tooLarge(Math.round(estimate), spacing);
  let rings = [outline, ...holes].map((ring) => along(ring, spacing));
  const inner = fit === 'texture' && plane ? byTexture(plan, rings, plane) : evenly(plan, rings);
  let made = meshOf(rings, inner, outline, holes);
  for (let round = 0; round < ROUNDS && made.broken.size > 0; round++) {
    const { broken } = made;
    let first = 0;
    rings = rings.map((ring) => {
      const out = ring.flatMap((p, i) => {
        const q = ring[(i + 1) % ring.length];
        return broken.has(first + i) ? [p, { x: (p.x + q.x) / 2, y: (p.y + q.y) / 2 }] : [p];
      });
      first += ring.length;
      return out;
    });
    made = meshOf(rings, inner, outline, holes);
  }
  const mesh = withoutStrays({ vertices: made.vertices, faces: fit === 'even' ? quads(made) : made.faces });
  const n = mesh.vertices.length;
  if (n < FEWEST_VERTICES)
    throw new LurnError(
      'mesh-small',
      `That makes a mesh of ${n} points. Draw it larger, or set them closer than ${spacing} px.`,
    );
  if (n > MOST_MESH_VERTICES) throw tooLarge(n, spacing);
  return mesh;
}

const tooLarge = (n: number, spacing: number) =>
  new LurnError(
    'mesh-large',
    `Points ${Math.round(spacing)} px apart would be about ${n}; ${MOST_MESH_VERTICES} at the most can be followed. Set them farther apart.`,
  );

/** Points along a closed line: its sharp corners, and between them evenly. */
function along(ring: readonly Point[], spacing: number): Point[] {
  const n = ring.length;
  const sharp = ring.flatMap((p, i) => {
    const [a, b] = [ring[(i + n - 1) % n], ring[(i + 1) % n]];
    const turn = Math.atan2(
      (p.x - a.x) * (b.y - p.y) - (p.y - a.y) * (b.x - p.x),
      (p.x - a.x) * (b.x - p.x) + (p.y - a.y) * (b.y - p.y),
    );
    return Math.abs(turn) > TURN ? [i] : [];
  });
  const kept = sharp.length > 0 ? sharp : [0];
  const out: Point[] = [];
  kept.forEach((from, k) => {
    const to = kept[(k + 1) % kept.length];
    const line: Point[] = [ring[from]];
    for (let i = from; ;) {
      i = (i + 1) % n;
      line.push(ring[i]);
      if (i === to) break;
    }
    out.push(...divided(line, spacing).slice(0, -1));
  });
  return out.length > 2 ? out : [...ring];
}

/** A line in equal parts, about so long. */
function divided(line: readonly Point[], spacing: number): Point[] {
  const lengths = [0];
  for (let i = 1; i < line.length; i++)
    lengths.push(lengths[i - 1] + Math.hypot(line[i].x - line[i - 1].x, line[i].y - line[i - 1].y));
  const whole = lengths[lengths.length - 1];
  const parts = Math.max(1, Math.round(whole / spacing));
  let k = 1;
  return Array.from({ length: parts + 1 }, (_, i) => {
    const at = (i / parts) * whole;
    while (k < lengths.length - 1 && lengths[k] < at) k++;
    const t = lengths[k] > lengths[k - 1] ? (at - lengths[k - 1]) / (lengths[k] - lengths[k - 1]) : 0;
    return {
      x: line[k - 1].x + t * (line[k].x - line[k - 1].x),
      y: line[k - 1].y + t * (line[k].y - line[k - 1].y),
    };
  });
}

function boundsOf(points: readonly Point[]): { x0: number; y0: number; x1: number; y1: number } {
  const [xs, ys] = [points.map((p) => p.x), points.map((p) => p.y)];
  return { x0: Math.min(...xs), y0: Math.min(...ys), x1: Math.max(...xs), y1: Math.max(...ys) };
}

/** Whether a place lies within the outline, in no hole, and so far from the border. */
function roomFor(
  { outline, holes = [] }: MeshPlan,
  rings: readonly (readonly Point[])[],
  far: number,
): (p: Point) => boolean {
  const border = rings.flat();
  return (p) =>
    isInside(outline, p) &&
    !holes.some((h) => isInside(h, p)) &&
    border.every((b) => (b.x - p.x) ** 2 + (b.y - p.y) ** 2 >= far * far);
}

function evenly(plan: MeshPlan, rings: readonly (readonly Point[])[]): Point[] {
  const { spacing } = plan;
  const { x0, y0, x1, y1 } = boundsOf(plan.outline);
  const [columns, rows] = [x1 - x0, y1 - y0].map((side) => Math.max(1, Math.round(side / spacing)));
  const fits = roomFor(plan, rings, FROM_BORDER * spacing);
  const out: Point[] = [];
  for (let r = 1; r < rows; r++) {
    for (let c = 1; c < columns; c++) {
      const p = { x: x0 + (c / columns) * (x1 - x0), y: y0 + (r / rows) * (y1 - y0) };
      if (fits(p)) out.push(p);
    }
  }
  return out;
}

/** The corners of the texture, the strongest first, as far apart as asked; and between them where there are none. */
function byTexture(plan: MeshPlan, rings: readonly (readonly Point[])[], plane: Plane): Point[] {
  const { spacing } = plan;
  const fits = roomFor(plan, rings, FROM_BORDER * spacing);
  const { x0, y0, x1, y1 } = boundsOf(plan.outline);
  const step = Math.max(2, Math.round(spacing / 8));
  const half = Math.max(4, Math.min(12, Math.round(spacing / 4)));
  const found: (Point & { readonly strength: number })[] = [];
  for (let y = Math.max(half + 1, y0); y < Math.min(plane.height - half - 1, y1); y += step) {
    for (let x = Math.max(half + 1, x0); x < Math.min(plane.width - half - 1, x1); x += step) {
      const p = { x, y };
      if (isInside(plan.outline, p)) found.push({ ...p, strength: strengthAt(plane, x, y, half) });
    }
  }
  found.sort((a, b) => b.strength - a.strength);
  const usual = found[Math.floor(found.length / 4)]?.strength ?? 0;
  const out: Point[] = [];
  const put = (p: Point, apart: number) => {
    if (fits(p) && out.every((q) => (q.x - p.x) ** 2 + (q.y - p.y) ** 2 >= apart * apart))
      out.push({ x: p.x, y: p.y });
  };
  for (const p of found) if (p.strength > NOTHING * usual) put(p, APART * spacing);
  for (const p of found) put(p, SPARSE * spacing);
  return out;
}

/** The smaller eigenvalue of the structure tensor about a place (Shi and Tomasi 1994). */
function strengthAt({ data, stride }: Plane, x: number, y: number, half: number): number {
  let [xx, xy, yy] = [0, 0, 0];
  const [cx, cy] = [Math.round(x), Math.round(y)];
  for (let j = -half; j <= half; j += 2) {
    for (let i = -half; i <= half; i += 2) {
      const p = (cy + j) * stride + cx + i;
      const [gx, gy] = [data[p + 1] - data[p - 1], data[p + stride] - data[p - stride]];
      xx += gx * gx;
      xy += gx * gy;
      yy += gy * gy;
    }
  }
  return smallestEigenvalue(xx, xy, yy);
}

interface Made extends Mesh {
  /** Stretches of the border, by the point they begin with, that no triangle has as its edge. */
  readonly broken: ReadonlySet<number>;
}

function meshOf(
  rings: readonly (readonly Point[])[],
  inner: readonly Point[],
  outline: readonly Point[],
  holes: readonly (readonly Point[])[],
): Made {
  const vertices = [...rings.flat(), ...inner];
  const { triangles } = Delaunay.from(vertices, (p) => p.x, (p) => p.y); // prettier-ignore
  const faces: number[][] = [];
  const edges = new Set<string>();
  for (let t = 0; t < triangles.length; t += 3) {
    const face = [...triangles.subarray(t, t + 3)];
    const [a, b, c] = face.map((v) => vertices[v]);
    const middle = { x: (a.x + b.x + c.x) / 3, y: (a.y + b.y + c.y) / 3 };
    if (!isInside(outline, middle) || holes.some((h) => isInside(h, middle))) continue;
    const area = twiceArea([a, b, c]);
    if (Math.abs(area) < 1e-3) continue;
    faces.push(area > 0 ? face : [...face].reverse());
    face.forEach((v, i) => edges.add(key(v, face[(i + 1) % 3])));
  }
  const broken = new Set<number>();
  let first = 0;
  for (const ring of rings) {
    ring.forEach((_, i) => {
      if (!edges.has(key(first + i, first + ((i + 1) % ring.length)))) broken.add(first + i);
    });
    first += ring.length;
  }
  return { vertices, faces, broken };
}

const key = (a: number, b: number) => (a < b ? `${a} ${b}` : `${b} ${a}`);

/** Pairs of triangles as quads, the squarest first. */
function quads({ vertices, faces }: Mesh): number[][] {
  const pairs = edgesOf(faces).flatMap(({ a, b, faces: sides }) => {
    if (sides.length !== 2) return [];
    const [f, g] = sides.map((s) => faces[s]);
    const [c, d] = [f, g].map((face) => face.find((v) => v !== a && v !== b)!);
    // The way round f, with the far corner of g between the two that they share.
    const i = f.indexOf(c);
    const quad = [c, f[(i + 1) % 3], d, f[(i + 2) % 3]];
    const off = squareness(quad.map((v) => vertices[v]));
    return off < ASKEW ? [{ quad, off, sides }] : [];
  });
  const taken = new Set<number>();
  const out: number[][] = [];
  for (const { quad, sides } of pairs.sort((p, q) => p.off - q.off)) {
    if (sides.some((s) => taken.has(s))) continue;
    sides.forEach((s) => taken.add(s));
    out.push(quad);
  }
  return [...out, ...faces.filter((_, f) => !taken.has(f)).map((f) => [...f])];
}

/** How far the angle of a quad's corner is from a right one at the most, in radians. */
function squareness(quad: readonly Point[]): number {
  return quad.reduce((worst, p, i) => {
    const [a, b] = [quad[(i + 3) % 4], quad[(i + 1) % 4]];
    const turn = Math.atan2(
      (b.x - p.x) * (a.y - p.y) - (b.y - p.y) * (a.x - p.x),
      (b.x - p.x) * (a.x - p.x) + (b.y - p.y) * (a.y - p.y),
    );
    return Math.max(worst, Math.abs(Math.abs(turn) - Math.PI / 2));
  }, 0);
}

/** A mesh without vertices that no face has. */
export function withoutStrays({ vertices, faces }: Mesh): Mesh {
  const used = new Map<number, number>();
  for (const v of [...new Set(faces.flat())].sort((a, b) => a - b)) used.set(v, used.size);
  return {
    vertices: [...used.keys()].map((v) => vertices[v]),
    faces: faces.map((f) => f.map((v) => used.get(v)!)),
  };
}
