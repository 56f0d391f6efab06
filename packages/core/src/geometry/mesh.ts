import { LurnError } from '../errors.js';
import type { Point } from './matrix.js';

/** Vertices of a surface's own frame, and the triangles and quads between them, each by its corners in turn. */
export interface Mesh {
  readonly vertices: readonly Point[];
  readonly faces: readonly (readonly number[])[];
}

/** Twice the area of a closed outline, positive where it runs clockwise on the screen. */
export function twiceArea(outline: readonly Point[]): number {
  let sum = 0;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++)
    sum += outline[j].x * outline[i].y - outline[i].x * outline[j].y;
  return sum;
}

/** The edges of faces, each once with how many faces it belongs to. */
export function edgesOf(
  faces: Mesh['faces'],
): { readonly a: number; readonly b: number; readonly faces: number[] }[] {
  const found = new Map<string, { a: number; b: number; faces: number[] }>();
  faces.forEach((face, f) => {
    face.forEach((a, i) => {
      const b = face[(i + 1) % face.length];
      const key = a < b ? `${a} ${b}` : `${b} ${a}`;
      const edge = found.get(key);
      if (edge) edge.faces.push(f);
      else found.set(key, { a, b, faces: [f] });
    });
  });
  return [...found.values()];
}

/** The edges that belong to one face alone, in the direction in which it runs. */
export function borderEdges(faces: Mesh['faces']): (readonly [number, number])[] {
  return edgesOf(faces)
    .filter((e) => e.faces.length === 1)
    .map(({ a, b }) => [a, b] as const);
}

/** The borders of faces as closed runs of vertices; where borders touch in a vertex they are told apart as they come. */
export function bordersOf(faces: Mesh['faces']): number[][] {
  const next = new Map<number, number[]>();
  for (const [a, b] of borderEdges(faces)) next.set(a, [...(next.get(a) ?? []), b]);
  const out: number[][] = [];
  for (const start of next.keys()) {
    while ((next.get(start) ?? []).length > 0) {
      const run: number[] = [];
      let at = start;
      do {
        run.push(at);
        const to = next.get(at)?.shift();
        if (to === undefined) break;
        at = to;
      } while (at !== start);
      if (run.length > 2) out.push(run);
    }
  }
  return out;
}

/** How many times, up and down by its area, a face has grown; negative where it has turned over. */
export function faceGrowth(face: readonly number[], from: readonly Point[], to: readonly Point[]): number {
  const before = twiceArea(face.map((v) => from[v]));
  return before === 0 ? 0 : twiceArea(face.map((v) => to[v])) / before;
}

/** Vertices that a mesh has at the least, and at the most. */
export const [FEWEST_VERTICES, MOST_MESH_VERTICES] = [4, 2000];
/** An outline's least area, in square pixels. */
const LEAST_AREA = 144;

/**
 * Says why an outline bounds nothing that a mesh could fill.
 *
 * @throws LurnError `outline-small`, `outline-crossed`
 */
export function checkOutline(outline: readonly Point[]): void {
  const n = outline.length;
  for (let i = 0; i < n; i++) {
    for (let j = i + 2; j < n; j++) {
      if (i === 0 && j === n - 1) continue;
      const [a, b, c, d] = [outline[i], outline[(i + 1) % n], outline[j], outline[(j + 1) % n]];
      if (!cross(a, b, c, d)) continue;
      throw new LurnError(
        'outline-crossed',
        `The outline crosses itself near ${Math.round(c.x)}, ${Math.round(c.y)}. Move its corners apart.`,
        { x: c.x, y: c.y },
      );
    }
  }
  if (outline.length < 3 || Math.abs(twiceArea(outline)) < 2 * LEAST_AREA)
    throw new LurnError(
      'outline-small',
      `The outline encloses ${Math.round(Math.abs(twiceArea(outline)) / 2)} square pixels. Draw round at least ${LEAST_AREA}.`,
    );
}

/** True when two stretches cross between their ends. */
function cross(a: Point, b: Point, c: Point, d: Point): boolean {
  const side = (p: Point, q: Point, r: Point) => (q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x);
  return side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0;
}
