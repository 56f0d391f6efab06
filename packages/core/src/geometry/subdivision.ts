import { LurnError } from '../errors.js';
import { edgesOf, type Mesh } from './mesh.js';
import { combined, sparseOf, timesPoints, type Sparse } from './sparse.js';

type Row = ReadonlyMap<number, number>;

/** How often a mesh can be subdivided. */
export const MOST_LEVELS = 3;
/** Vertices that a subdivided mesh has at the most. */
const MOST_FINE = 60_000;

/** A mesh so often subdivided: its faces, and its vertices as weighted sums of those of the mesh. */
export interface Subdivided {
  readonly faces: Mesh['faces'];
  /** Rows of the vertices of the mesh come first. */
  readonly stencils: Sparse;
  /** Those of the mesh's own vertices alone. */
  readonly own: Sparse;
}

/**
 * Subdivides faces of any number of corners (Catmull and Clark 1978; borders as cubic splines, DeRose, Kass and Truong
 * 1998, a vertex of one face alone as a sharp corner).
 *
 * @param count   vertices of the mesh
 * @param levels  how often, 0 to {@link MOST_LEVELS}
 * @throws LurnError `subdivision-large` when there would be too many vertices
 */
export function subdivided(faces: Mesh['faces'], count: number, levels: number): Subdivided {
  let rows: Row[] = Array.from({ length: count }, (_, i) => new Map([[i, 1]]));
  let now = faces;
  for (let level = 0; level < levels; level++) {
    const corners = now.reduce((n, f) => n + f.length, 0);
    if (rows.length + now.length + corners > MOST_FINE)
      throw new LurnError(
        'subdivision-large',
        `Subdivided ${levels} times the mesh would have more than ${MOST_FINE} points. Subdivide it less, or make it of fewer points.`,
      );
    const next = catmullClark(now, rows.length);
    rows = combined(next.rows, rows);
    now = next.faces;
  }
  return { faces: now, stencils: sparseOf(rows), own: sparseOf(rows.slice(0, count)) };
}

/** One step: new vertices as weighted sums, those of the old ones first, then one a face, one an edge. */
function catmullClark(faces: Mesh['faces'], count: number): { faces: number[][]; rows: Row[] } {
  const edges = edgesOf(faces);
  const facePoint = (f: number) => count + f;
  const edgePoint = (e: number) => count + faces.length + e;
  const faceRows = faces.map((face): Row => new Map(face.map((v) => [v, 1 / face.length])));
  const edgeOf = new Map<string, number>();
  const around = Array.from({ length: count }, () => ({ edges: [] as number[], faces: [] as number[] }));
  faces.forEach((face, f) => face.forEach((v) => around[v].faces.push(f)));
  edges.forEach(({ a, b }, e) => {
    edgeOf.set(`${Math.min(a, b)} ${Math.max(a, b)}`, e);
    around[a].edges.push(e);
    around[b].edges.push(e);
  });
  const edgeRows = edges.map(({ a, b, faces: sides }): Row => {
    if (sides.length !== 2) return new Map([[a, 0.5], [b, 0.5]]); // prettier-ignore
    return sum([[new Map([[a, 1], [b, 1]]), 0.25], ...sides.map((f) => [faceRows[f], 0.25] as const)]); // prettier-ignore
  });
  const vertexRows = around.map(({ edges: own, faces: sides }, v): Row => {
    const itself: Row = new Map([[v, 1]]);
    const border = own.filter((e) => edges[e].faces.length !== 2);
    if (border.length > 0 || sides.length === 0) {
      if (border.length !== 2 || sides.length < 2) return itself;
      const ends = border.map((e) => (edges[e].a === v ? edges[e].b : edges[e].a));
      return sum([[itself, 0.75], ...ends.map((w) => [new Map([[w, 1]]) as Row, 0.125] as const)]);
    }
    const n = sides.length;
    const middles = own.map((e) => new Map([[edges[e].a, 0.5], [edges[e].b, 0.5]]) as Row); // prettier-ignore
    return sum([
      [itself, (n - 3) / n],
      ...sides.map((f) => [faceRows[f], 1 / (n * n)] as const),
      ...middles.map((m) => [m, 2 / (n * n)] as const),
    ]);
  });
  const out: number[][] = [];
  faces.forEach((face, f) =>
    face.forEach((v, i) => {
      const [next, before] = [face[(i + 1) % face.length], face[(i + face.length - 1) % face.length]];
      const edge = (a: number, b: number) => edgePoint(edgeOf.get(`${Math.min(a, b)} ${Math.max(a, b)}`)!);
      out.push([v, edge(v, next), facePoint(f), edge(before, v)]);
    }),
  );
  return { faces: out, rows: [...vertexRows, ...faceRows, ...edgeRows] };
}

function sum(parts: readonly (readonly [Row, number])[]): Row {
  const out = new Map<number, number>();
  for (const [row, weight] of parts) for (const [i, w] of row) out.set(i, (out.get(i) ?? 0) + weight * w);
  return out;
}

/** Rounds in which the points settle that make the subdivided mesh go through given ones. */
const ROUNDS = 40;

/**
 * Vertices of a subdivided mesh that goes through given places with the mesh's own vertices (progressive interpolation;
 * Lin et al. 2004, Cheng et al. 2007).
 *
 * @param places  of the mesh's vertices, x and y of each
 * @returns of the subdivided mesh's
 */
export function throughPlaces({ stencils, own }: Subdivided, places: Float64Array): Float64Array {
  const points = places.slice();
  const reached = new Float64Array(places.length);
  for (let round = 0; round < ROUNDS; round++) {
    timesPoints(own, points, reached);
    let far = 0;
    for (let k = 0; k < points.length; k++) {
      const off = places[k] - reached[k];
      points[k] += off;
      far = Math.max(far, Math.abs(off));
    }
    if (far < 1e-6) break;
  }
  const out = new Float64Array(2 * stencils.rows);
  timesPoints(stencils, points, out);
  return out;
}
