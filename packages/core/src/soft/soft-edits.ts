import { isInside } from '../geometry/area.js';
import { borderEdges, bordersOf, edgesOf, faceGrowth, twiceArea, type Mesh } from '../geometry/mesh.js';
import { movingWeights, nearestTo } from '../geometry/moving-affine.js';
import type { Point } from '../geometry/matrix.js';
import { withoutStrays } from './mesh-making.js';
import {
  softSample,
  softSamples,
  withSoftSamples,
  EMPTY_SOFT_TRACK,
  type SoftTrack,
  type SoftVertex,
} from './soft-track.js';

/** A mesh and what was measured of it. */
export interface MeshedTrack {
  readonly mesh: Mesh;
  readonly track: SoftTrack;
}

/** Others that a new vertex goes with, at the most. */
const NEIGHBOURS = 12;

/**
 * What was measured of one mesh, told of the vertices of another on the same frame: each goes with those about it, and is
 * where one was that lay in the same place.
 */
export function carriedOver({ mesh, track }: MeshedTrack, vertices: readonly Point[]): SoftTrack {
  const leads = vertices.map((at) => nearestTo(at, mesh.vertices, NEIGHBOURS));
  const samples = [...softSamples(track)].map((sample) => {
    const moved = vertices.map((at, i): SoftVertex | null => {
      const [first] = leads[i];
      const same = sample.vertices[first.i];
      if (first.d < 1e-3 || !same) return same;
      const known = leads[i].filter((n) => sample.vertices[n.i]);
      if (known.length < 3) return null;
      const weights = movingWeights(at, known.map((n) => mesh.vertices[n.i]), Math.max(1, first.d)); // prettier-ignore
      let [x, y] = [0, 0];
      known.forEach(({ i: v }, k) => {
        x += weights[k] * sample.vertices[v]!.x;
        y += weights[k] * sample.vertices[v]!.y;
      });
      const state =
        same.state === 'pinned' && sample.vertices.some((v) => v?.state === 'tracked')
          ? 'tracked'
          : same.state;
      return { x, y, confidence: same.confidence, state };
    });
    return softSample(sample.frame, moved, sample.held);
  });
  return samples.length > 0 ? withSoftSamples(EMPTY_SOFT_TRACK, samples) : EMPTY_SOFT_TRACK;
}

/** A mesh with other vertices and faces, and what was measured told of them. */
function changed(from: MeshedTrack, mesh: Mesh): MeshedTrack {
  const tidy = withoutStrays(mesh);
  return { mesh: tidy, track: carriedOver(from, tidy.vertices) };
}

/** Without some vertices: the faces about each become one, cut into triangles from the next one round; at the border they go. */
export function withoutVertices(from: MeshedTrack, gone: ReadonlySet<number>): MeshedTrack {
  let { faces } = from.mesh;
  const { vertices } = from.mesh;
  for (const v of gone) {
    const around = faces.filter((f) => f.includes(v));
    const rest = faces.filter((f) => !f.includes(v));
    const border = borderEdges(faces).some((e) => e.includes(v));
    const ring = border ? [] : ringOf(around, v);
    faces = ring.length >= 3 ? [...rest, ...fanned(ring, vertices)] : rest;
  }
  return changed(from, { vertices, faces });
}

/** The vertices round one, in turn. */
function ringOf(around: Mesh['faces'], v: number): number[] {
  const next = new Map<number, readonly number[]>();
  for (const face of around) {
    const i = face.indexOf(v);
    const way = [...face.slice(i + 1), ...face.slice(0, i)];
    next.set(way[0], way.slice(1));
  }
  const ring: number[] = [];
  let at = next.keys().next().value!;
  for (let n = 0; n < around.length && next.has(at); n++) {
    const way = next.get(at)!;
    ring.push(at, ...way.slice(0, -1));
    at = way[way.length - 1];
  }
  return ring;
}

/** A closed run of vertices as triangles, the roundest ear first (Meisters 1975). */
function fanned(ring: readonly number[], at: readonly Point[]): number[][] {
  const left = [...ring];
  const out: number[][] = [];
  while (left.length > 3) {
    const ears = left.map((b, i) => {
      const [a, c] = [left[(i + left.length - 1) % left.length], left[(i + 1) % left.length]];
      const corner = [at[a], at[b], at[c]];
      const open = left.every((v) => v === a || v === b || v === c || !isInside(corner, at[v]));
      return open ? roundness(corner) : -1;
    });
    const i = ears.indexOf(Math.max(...ears));
    out.push([left[(i + left.length - 1) % left.length], left[i], left[(i + 1) % left.length]]);
    left.splice(i, 1);
  }
  return [...out, left];
}

/** Area against the longest side: the more, the farther from a sliver; negative where it is turned over. */
function roundness(corner: readonly Point[]): number {
  const sides = corner.map((p, i) => Math.hypot(p.x - corner[(i + 1) % 3].x, p.y - corner[(i + 1) % 3].y));
  return twiceArea(corner) / Math.max(...sides) ** 2;
}

/**
 * With one more vertex: in a face, which is cut into triangles about it; beyond the border joined to its nearest edge.
 *
 * @returns null where a vertex lies there already
 */
export function withVertex(from: MeshedTrack, at: Point): MeshedTrack | null {
  const { vertices, faces } = from.mesh;
  if (vertices.some((p) => Math.hypot(p.x - at.x, p.y - at.y) < 1)) return null;
  const v = vertices.length;
  const inside = faces.findIndex((f) => isInside(f.map((i) => vertices[i]), at)); // prettier-ignore
  if (inside >= 0) {
    const face = faces[inside];
    const cut = face.map((a, i) => [a, face[(i + 1) % face.length], v]);
    return changed(from, {
      vertices: [...vertices, at],
      faces: [...faces.filter((_, f) => f !== inside), ...cut],
    });
  }
  const edges = borderEdges(faces)
    .filter(([a, b]) => twiceArea([vertices[b], vertices[a], at]) > 0)
    .map(([a, b]) => ({
      a,
      b,
      d: Math.hypot((vertices[a].x + vertices[b].x) / 2 - at.x, (vertices[a].y + vertices[b].y) / 2 - at.y),
    })) // prettier-ignore
    .sort((p, q) => p.d - q.d);
  if (edges.length === 0) return null;
  const [{ a, b }] = edges;
  return changed(from, { vertices: [...vertices, at], faces: [...faces, [b, a, v]] });
}

/** Without the faces that a line goes through: a mesh is cut so. */
export function cutAlong(from: MeshedTrack, a: Point, b: Point): MeshedTrack {
  const { vertices, faces } = from.mesh;
  const side = (p: Point) => (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x);
  const along = (p: Point) =>
    ((p.x - a.x) * (b.x - a.x) + (p.y - a.y) * (b.y - a.y)) / ((b.x - a.x) ** 2 + (b.y - a.y) ** 2 || 1);
  const left = faces.filter((face) => {
    const corners = face.map((v) => vertices[v]);
    const crosses = corners.some((p, i) => {
      const q = corners[(i + 1) % corners.length];
      const [s, t] = [side(p), side(q)];
      if (s * t >= 0) return false;
      const at = along({ x: p.x + ((q.x - p.x) * s) / (s - t), y: p.y + ((q.y - p.y) * s) / (s - t) });
      return at >= 0 && at <= 1;
    });
    return !crosses;
  });
  return changed(from, { vertices, faces: left });
}

/** The faces that are turned over where some vertices are put elsewhere, and were not before. */
export function turnedOver(mesh: Mesh, before: readonly Point[], after: readonly Point[]): number[] {
  return mesh.faces.flatMap((face, f) =>
    faceGrowth(face, mesh.vertices, after) <= 0 && faceGrowth(face, mesh.vertices, before) > 0 ? [f] : [],
  );
}

/**
 * With an edge between two vertices: the faces that it would go through are cut into triangles on both sides of it
 * (constrained triangulation, Anglada 1997). Two of the border that have one neighbour between them are joined beyond it.
 *
 * @returns null where they are joined already, or the way between them leads through a vertex or out of the mesh
 */
export function withMeshEdge(from: MeshedTrack, a: number, b: number): MeshedTrack | null {
  const { vertices, faces } = from.mesh;
  if (edgesOf(faces).some((e) => (e.a === a && e.b === b) || (e.a === b && e.b === a))) return null;
  const between = faces.filter((face) => liesBetween(face, vertices, a, b));
  const [ring] = bordersOf(between);
  const [i, j] = [ring?.indexOf(a) ?? -1, ring?.indexOf(b) ?? -1];
  if (i >= 0 && j >= 0 && ring.length > 3) {
    const turned = [...ring.slice(i), ...ring.slice(0, i)];
    const at = turned.indexOf(b);
    const sides = [turned.slice(0, at + 1), [...turned.slice(at), a]];
    const cut = sides.flatMap((side) => fanned(side, vertices));
    const whole = sides.every((side) => side.length > 2) && cut.every((f) => twiceArea(f.map((v) => vertices[v])) > 0); // prettier-ignore
    return whole ? changed(from, { vertices, faces: [...faces.filter((f) => !between.includes(f)), ...cut] }) : null; // prettier-ignore
  }
  const next = new Map(borderEdges(faces));
  for (const [p, q] of [
    [a, b],
    [b, a],
  ]) {
    const middle = next.get(q);
    // The border runs clockwise: what lies beyond it runs the other way.
    if (middle === undefined || next.get(middle) !== p) continue;
    const beyond = [p, middle, q];
    if (twiceArea(beyond.map((v) => vertices[v])) > 0)
      return changed(from, { vertices, faces: [...faces, beyond] });
  }
  return null;
}

/** True when the stretch between two vertices leads through a face, or along its diagonal. */
function liesBetween(face: readonly number[], at: readonly Point[], a: number, b: number): boolean {
  if (face.includes(a) && face.includes(b)) return true;
  const side = (p: Point, q: Point, r: Point) => (q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x);
  return face.some((v, i) => {
    const w = face[(i + 1) % face.length];
    if (v === a || v === b || w === a || w === b) return false;
    const [p, q] = [at[v], at[w]];
    return side(at[a], at[b], p) * side(at[a], at[b], q) < 0 && side(p, q, at[a]) * side(p, q, at[b]) < 0;
  });
}

/**
 * Without the edge between two vertices: two triangles beside it become one quad; at the border the face beside it goes.
 *
 * @returns null where there is no such edge, or what lies beside it makes no quad
 */
export function withoutMeshEdge(from: MeshedTrack, a: number, b: number): MeshedTrack | null {
  const { vertices, faces } = from.mesh;
  const edge = edgesOf(faces).find((e) => (e.a === a && e.b === b) || (e.a === b && e.b === a));
  if (!edge) return null;
  const rest = faces.filter((_, f) => !edge.faces.includes(f));
  if (edge.faces.length === 1) return rest.length > 0 ? changed(from, { vertices, faces: rest }) : null;
  const [ring] = bordersOf(edge.faces.map((f) => faces[f]));
  const corners = ring.map((v) => vertices[v]);
  const round = corners.every((p, i) => twiceArea([p, corners[(i + 1) % 4], corners[(i + 2) % 4]]) > 0);
  return ring.length === 4 && round ? changed(from, { vertices, faces: [...rest, ring] }) : null;
}
