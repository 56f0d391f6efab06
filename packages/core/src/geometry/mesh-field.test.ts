import { randomNumbers } from '../numbers.js';
import { makeMesh } from '../soft/mesh-making.js';
import { filledPlaces, flatOf, MeshField } from './mesh-field.js';
import { apply, IDENTITY, type Matrix3, type Point } from './matrix.js';
import { subdivided, throughPlaces } from './subdivision.js';
import { chained, matrixWarp, evaluatorOf, type UnbentWarp } from './warp.js';

const SIZE = { x: 0, y: 0, width: 400, height: 300 };
const OUTLINE: Point[] = [
  { x: 60, y: 50 },
  { x: 340, y: 60 },
  { x: 330, y: 250 },
  { x: 70, y: 240 },
];
const rippled = ({ x, y }: Point): Point => ({
  x: x + 20 + 8 * Math.sin((x + y) / 45),
  y: 1.05 * y - 6 + 7 * Math.sin((x - 0.5 * y) / 38),
});
const apart = (a: Point, b: Point) => Math.hypot(a.x - b.x, a.y - b.y);
const field = (levels: number, spacing = 24) => {
  const mesh = makeMesh({ outline: OUTLINE, spacing, fit: 'even' });
  return { mesh, made: new MeshField(mesh.faces, mesh.vertices, levels, SIZE, 100, 75) };
};
const within = (p: Point) => p.x > 90 && p.x < 310 && p.y > 80 && p.y < 220;

describe('a subdivided mesh', () => {
  it('goes through the places of its own vertices at every level, triangles and quads alike', () => {
    for (const fit of ['even', 'texture'] as const) {
      const mesh = makeMesh({ outline: OUTLINE, spacing: 33, fit });
      const places = flatOf(mesh.vertices.map(rippled));
      for (const levels of [0, 1, 2, 3]) {
        const out = throughPlaces(subdivided(mesh.faces, mesh.vertices.length, levels), places);
        for (let k = 0; k < places.length; k++) expect(out[k]).toBeCloseTo(places[k], 3);
      }
    }
  });

  it('is refused where it would be too large', () => {
    const mesh = makeMesh({ outline: OUTLINE, spacing: 6, fit: 'even' });
    expect(() => subdivided(mesh.faces, mesh.vertices.length, 3)).toThrow('Subdivide it less');
  });
});

describe('a field that goes with a mesh', () => {
  it('leaves everything where it is when the mesh stays, within and beyond it', () => {
    const { mesh, made } = field(2);
    const place = evaluatorOf(made.warpTo(mesh.vertices));
    for (const [x, y] of [
      [200, 150],
      [62, 52],
      [5, 5],
      [390, 290],
      [200, 20],
    ])
      expect(apart(place.at(x, y), { x, y })).toBeLessThan(0.02);
  });

  it('follows an affine map exactly, far beyond its border too', () => {
    const m: Matrix3 = [1.02, 0.05, 12, -0.03, 0.97, -8, 0, 0, 1];
    const { mesh, made } = field(1);
    const place = evaluatorOf(made.warpTo(mesh.vertices.map((p) => apply(m, p.x, p.y))));
    for (const [x, y] of [
      [200, 150],
      [10, 20],
      [390, 10],
      [399, 299],
    ])
      expect(apart(place.at(x, y), apply(m, x, y))).toBeLessThan(0.05);
  });

  it('comes nearer to what bends between its points the more it is subdivided', () => {
    const worst = [0, 2].map((levels) => {
      const { mesh, made } = field(levels, 32);
      const place = evaluatorOf(made.warpTo(mesh.vertices.map(rippled)));
      let most = 0;
      for (let y = 5; y < 300; y += 7)
        for (let x = 5; x < 400; x += 7)
          if (within({ x, y })) most = Math.max(most, apart(place.at(x, y), rippled({ x, y })));
      return most;
    });
    expect(worst[1]).toBeLessThan(0.4);
    expect(worst[1]).toBeLessThan(worst[0] / 2);
  });

  it('has no step at its border', () => {
    const { mesh, made } = field(2);
    const place = evaluatorOf(made.warpTo(mesh.vertices.map(rippled)));
    for (let x = 30; x < 370; x += 1) {
      const [a, b] = [place.at(x, 58), place.at(x + 1, 58)];
      expect(apart(a, b)).toBeLessThan(2.5);
    }
  });
});

describe('the way back through a mesh', () => {
  it('is exact, in rows and by itself, and on through matrices', () => {
    const { mesh, made } = field(2);
    const forth = made.warpTo(mesh.vertices.map(rippled));
    const back: UnbentWarp = { kind: 'unbent', mesh: forth, before: IDENTITY, after: IDENTITY };
    const [there, home] = [evaluatorOf(forth), evaluatorOf(back)];
    const random = randomNumbers(3);
    for (let n = 0; n < 400; n++) {
      const p = { x: 80 + 240 * random(), y: 70 + 160 * random() };
      const q = there.at(p.x, p.y);
      expect(apart(home.at(q.x, q.y), p)).toBeLessThan(1e-6);
      expect(there.scaleAt(p.x, p.y) * home.scaleAt(q.x, q.y)).toBeCloseTo(1, 6);
    }
    const [xs, ys] = [new Float64Array(100), new Float64Array(100)];
    home.row(150.5, 120.5, 220.5, xs, ys);
    xs.forEach((x, i) => expect(apart(home.at(120.5 + i, 150.5), { x, y: ys[i] })).toBeLessThan(1e-6));
    const m: Matrix3 = [2, 0, 10, 0, 2, -4, 0, 0, 1];
    const through = evaluatorOf(chained(matrixWarp(m), back));
    expect(apart(through.at(90, 80), home.at(190, 156))).toBeLessThan(1e-9);
    const both = evaluatorOf(chained(forth, back));
    expect(apart(both.at(150, 120), { x: 150, y: 120 })).toBeLessThan(1e-6);
  });
});

describe('places of vertices that are not known', () => {
  it('go with those about them', () => {
    const { mesh } = field(0);
    const m: Matrix3 = [1.1, 0.1, 5, -0.1, 0.9, 3, 0, 0, 1];
    const places = mesh.vertices.map((p, i) => (i % 4 === 0 ? null : apply(m, p.x, p.y)));
    const filled = filledPlaces(mesh.vertices, places)!;
    filled.forEach((p, i) =>
      expect(apart(p, apply(m, mesh.vertices[i].x, mesh.vertices[i].y))).toBeLessThan(0.3),
    );
    expect(
      filledPlaces(
        mesh.vertices,
        mesh.vertices.map((p, i) => (i < 2 ? p : null)),
      ),
    ).toBeNull();
  });
});
