import { Delaunay } from 'd3-delaunay';
import { LurnError } from '../errors.js';
import { isInside } from '../geometry/area.js';
import type { Point } from '../geometry/matrix.js';
import { twiceArea, type Mesh } from '../geometry/mesh.js';

/** Triangles between points (Delaunay), all turned the same way; those that are flat are left out. */
export function triangulated(vertices: readonly Point[]): number[][] {
  const { triangles } = Delaunay.from(vertices, (p) => p.x, (p) => p.y); // prettier-ignore
  const faces: number[][] = [];
  for (let t = 0; t < triangles.length; t += 3) {
    const face = [...triangles.subarray(t, t + 3)];
    const area = twiceArea(face.map((v) => vertices[v]));
    if (Math.abs(area) > 1e-3) faces.push(area > 0 ? face : face.reverse());
  }
  return faces;
}

/**
 * A mesh of some of many points: those of the outline, then of the others each that is far enough from all that were
 * taken, in the order in which they are given; triangulated (Delaunay), and only within the outline.
 *
 * @param outline  in turn, in pixels
 * @param points   within it, what matters most first
 * @param spacing  least distance of two that are taken, in pixels
 * @throws LurnError `mesh-small` where no triangle is left
 */
export function meshOfPoints(outline: readonly Point[], points: readonly Point[], spacing: number): Mesh {
  const vertices: Point[] = [];
  const take = (list: readonly Point[], apart: number) => {
    for (const p of list)
      if (vertices.every((q) => Math.hypot(p.x - q.x, p.y - q.y) >= apart)) vertices.push({ x: p.x, y: p.y });
  };
  // Nearer to each other along the rim: it keeps its shape.
  take(outline, 0.6 * spacing);
  const rim = vertices.slice();
  const small = () => new LurnError('mesh-small', 'It is too small in the picture for a mesh.');
  if (rim.length < 3) throw small();
  take(points.filter((p) => isInside(rim, p)), spacing); // prettier-ignore
  const faces = triangulated(vertices).filter((face) => {
    const [a, b, c] = face.map((v) => vertices[v]);
    return isInside(rim, { x: (a.x + b.x + c.x) / 3, y: (a.y + b.y + c.y) / 3 });
  });
  if (faces.length === 0) throw small();
  return { vertices, faces };
}
