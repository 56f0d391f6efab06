import { bordersOf, twiceArea, type Mesh } from '../geometry/mesh.js';
import { apply, type Matrix3, type Point } from '../geometry/matrix.js';
import { makeMesh } from './mesh-making.js';
import {
  carriedOver,
  cutAlong,
  turnedOver,
  withMeshEdge,
  withoutMeshEdge,
  withoutVertices,
  withVertex,
} from './soft-edits.js';
import { EMPTY_SOFT_TRACK, softAt, softSample, withSoftSamples, type SoftVertex } from './soft-track.js';

const p = (x: number, y: number): Point => ({ x, y });
const MESH = makeMesh({ outline: [p(0, 0), p(120, 0), p(120, 90), p(0, 90)], spacing: 30, fit: 'even' });
const M: Matrix3 = [1.1, 0.05, 14, -0.02, 0.95, -3, 0, 0, 1];
const moved = (mesh: Mesh) =>
  mesh.vertices.map((v): SoftVertex => ({ ...apply(M, v.x, v.y), confidence: 0.9, state: 'tracked' }));
const from = { mesh: MESH, track: withSoftSamples(EMPTY_SOFT_TRACK, [softSample(7, moved(MESH))]) };
const areaOf = ({ vertices, faces }: Mesh) =>
  faces.reduce((sum, f) => sum + twiceArea(f.map((v) => vertices[v])) / 2, 0);
const middleOne = MESH.vertices.findIndex((v) => v.x === 60 && v.y === 30);

function goesAlong({ mesh, track }: typeof from) {
  softAt(track, 7)!.vertices.forEach((v, i) => {
    const at = apply(M, mesh.vertices[i].x, mesh.vertices[i].y);
    expect(Math.hypot(v!.x - at.x, v!.y - at.y)).toBeLessThan(0.01);
  });
}

describe('edits of a mesh', () => {
  it('take a point out within, the surface staying whole and what was measured with it', () => {
    const less = withoutVertices(from, new Set([middleOne]));
    expect(less.mesh.vertices).toHaveLength(MESH.vertices.length - 1);
    expect(areaOf(less.mesh)).toBeCloseTo(120 * 90, 6);
    less.mesh.faces.forEach((f) => expect(twiceArea(f.map((v) => less.mesh.vertices[v]))).toBeGreaterThan(0));
    goesAlong(less);
  });

  it('take a point out at the border with the faces that it belongs to', () => {
    const corner = MESH.vertices.findIndex((v) => v.x === 0 && v.y === 0);
    expect(areaOf(withoutVertices(from, new Set([corner])).mesh)).toBeCloseTo(120 * 90 - 30 * 30, 6);
  });

  it('put one in, within and beyond the border, going with those about it', () => {
    for (const at of [p(40, 50), p(140, 45)]) {
      const more = withVertex(from, at)!;
      expect(more.mesh.vertices).toHaveLength(MESH.vertices.length + 1);
      more.mesh.faces.forEach((f) =>
        expect(twiceArea(f.map((v) => more.mesh.vertices[v]))).toBeGreaterThan(0),
      );
      goesAlong(more);
    }
    expect(withVertex(from, p(60.2, 30))).toBeNull();
  });

  it('put an edge across faces, which stay whole, and take it away again', () => {
    const at = (x: number, y: number) => MESH.vertices.findIndex((v) => v.x === x && v.y === y);
    const edged = withMeshEdge(from, at(30, 30), at(90, 60))!;
    const joined = (m: Mesh, a: number, b: number) =>
      m.faces.some((f) => f.some((v, i) => new Set([v, f[(i + 1) % f.length], a, b]).size === 2));
    expect(joined(MESH, at(30, 30), at(90, 60))).toBe(false);
    expect(joined(edged.mesh, at(30, 30), at(90, 60))).toBe(true);
    expect(areaOf(edged.mesh)).toBeCloseTo(120 * 90, 6);
    edged.mesh.faces.forEach((f) => expect(twiceArea(f.map((v) => MESH.vertices[v]))).toBeGreaterThan(0));
    expect(withMeshEdge(edged, at(30, 30), at(90, 60))).toBeNull();
    // A quad's diagonal makes two triangles, and without it they are the quad again.
    const halved = withMeshEdge(from, at(30, 30), at(60, 60))!;
    expect(halved.mesh.faces).toHaveLength(MESH.faces.length + 1);
    expect(withoutMeshEdge(halved, at(30, 30), at(60, 60))!.mesh.faces).toHaveLength(MESH.faces.length);
    // Through a vertex there is none.
    expect(withMeshEdge(from, at(30, 30), at(90, 30))).toBeNull();
  });

  it('take a border edge away with its face, and close the notch again', () => {
    const at = (x: number, y: number) => MESH.vertices.findIndex((v) => v.x === x && v.y === y);
    const notched = withoutMeshEdge(from, at(30, 0), at(60, 0))!;
    expect(areaOf(notched.mesh)).toBeCloseTo(120 * 90 - 900, 6);
    const [a, b] = [p(30, 0), p(60, 30)].map((q) => notched.mesh.vertices.findIndex((v) => v.x === q.x && v.y === q.y)); // prettier-ignore
    const closed = withMeshEdge(notched, a, b)!;
    expect(areaOf(closed.mesh)).toBeCloseTo(120 * 90 - 450, 6);
    goesAlong(closed);
  });

  it('cut it in two along a line', () => {
    const { mesh } = cutAlong(from, p(45, -10), p(45, 100));
    expect(bordersOf(mesh.faces)).toHaveLength(2);
    expect(areaOf(mesh)).toBeCloseTo(90 * 90, 6);
  });

  it('carry what was measured over to another mesh; what had ended stays so', () => {
    const holed = withSoftSamples(from.track, [
      softSample(
        8,
        moved(MESH).map((v, i) => (i === middleOne ? null : v)),
      ),
    ]);
    const other = makeMesh({ outline: [p(0, 0), p(120, 0), p(120, 90), p(0, 90)], spacing: 18, fit: 'even' });
    const track = carriedOver({ mesh: MESH, track: holed }, other.vertices);
    goesAlong({ mesh: other, track });
    const near = other.vertices.findIndex((v) => Math.hypot(v.x - 60, v.y - 30) < 12);
    expect(softAt(track, 8)!.vertices[near]).toBeNull();
  });

  it('tell which faces a point that is put elsewhere turns over', () => {
    const put = MESH.vertices.map((v, i) => (i === middleOne ? p(125, 30) : v));
    expect(turnedOver(MESH, MESH.vertices, put).length).toBeGreaterThan(0);
    expect(
      turnedOver(
        MESH,
        MESH.vertices,
        MESH.vertices.map((v, i) => (i === middleOne ? p(64, 33) : v)),
      ),
    ).toEqual([]);
  });
});
