import { faceGrowth, twiceArea } from '../geometry/mesh.js';
import { randomNumbers } from '../testing/footage.js';
import { meshOfPoints } from './mesh-of-points.js';

const ring = (n: number, r: number) =>
  Array.from({ length: n }, (_, i) => {
    const a = (2 * Math.PI * i) / n;
    return { x: 200 + r * Math.cos(a) * (i % 2 ? 1 : 0.9), y: 150 + 1.2 * r * Math.sin(a) };
  });

describe('a mesh of points', () => {
  const random = randomNumbers(3);
  const many = Array.from({ length: 400 }, () => ({ x: 90 + 220 * random(), y: 30 + 240 * random() }));
  const nose = { x: 201, y: 151 };
  const mesh = meshOfPoints(ring(30, 100), [nose, ...many], 20);

  it('takes what matters first, and nothing too near to it', () => {
    expect(mesh.vertices).toContainEqual(nose);
    mesh.vertices.forEach((p, i) =>
      mesh.vertices
        .slice(i + 1)
        .forEach((q) => expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeGreaterThanOrEqual(12)),
    );
    expect(mesh.vertices.length).toBeGreaterThan(50);
    expect(mesh.vertices.length).toBeLessThan(120);
  });

  it('fills the outline and no more: its triangles add up to it, all turned the same way', () => {
    const areas = mesh.faces.map((face) => twiceArea(face.map((v) => mesh.vertices[v])));
    expect(areas.every((a) => a > 0)).toBe(true);
    const whole = Math.abs(twiceArea(ring(30, 100)));
    const sum = areas.reduce((a, b) => a + b, 0);
    expect(Math.abs(sum / whole - 1)).toBeLessThan(0.05);
    expect(faceGrowth(mesh.faces[0], mesh.vertices, mesh.vertices)).toBeCloseTo(1, 9);
  });

  it('of what is too small is refused', () => {
    expect(() => meshOfPoints(ring(30, 3), many, 20)).toThrow('too small');
  });
});
