import { bordersOf, borderEdges, edgesOf, twiceArea } from '../geometry/mesh.js';
import type { Point } from '../geometry/matrix.js';
import { createPlane } from '../picture/plane.js';
import { speckledSurface } from '../testing/footage.js';
import { makeMesh } from './mesh-making.js';

const p = (x: number, y: number): Point => ({ x, y });
const SQUARE = [p(20, 20), p(320, 20), p(320, 260), p(20, 260)];
const BAY = [p(0, 0), p(200, 0), p(200, 60), p(70, 70), p(200, 90), p(200, 200), p(0, 200)];

const areaOf = (mesh: ReturnType<typeof makeMesh>) =>
  mesh.faces.reduce((sum, f) => sum + twiceArea(f.map((v) => mesh.vertices[v])) / 2, 0);

describe('a mesh that fills an outline', () => {
  it('covers it wholly, once, with faces that run clockwise', () => {
    for (const fit of ['even', 'texture'] as const) {
      for (const outline of [SQUARE, BAY]) {
        const mesh = makeMesh({ outline, spacing: 30, fit }, fit === 'texture' ? speckle() : undefined);
        expect(areaOf(mesh)).toBeCloseTo(Math.abs(twiceArea(outline)) / 2, 3);
        for (const f of mesh.faces) expect(twiceArea(f.map((v) => mesh.vertices[v]))).toBeGreaterThan(0);
        expect(edgesOf(mesh.faces).every((e) => e.faces.length <= 2)).toBe(true);
      }
    }
  });

  it('keeps its border whole, and a hole a hole', () => {
    const hole = [p(140, 110), p(200, 110), p(200, 170), p(140, 170)];
    const mesh = makeMesh({ outline: SQUARE, holes: [hole], spacing: 30, fit: 'even' });
    expect(bordersOf(mesh.faces)).toHaveLength(2);
    expect(areaOf(mesh)).toBeCloseTo(300 * 240 - 60 * 60, 3);
  });

  it('is of quads where it is even, as few as its spacing says', () => {
    const mesh = makeMesh({ outline: SQUARE, spacing: 30, fit: 'even' });
    expect(mesh.faces.filter((f) => f.length === 4)).toHaveLength(80);
    expect(mesh.vertices).toHaveLength(99);
  });

  it('has its points where there is texture, and fewer where there is nothing', () => {
    const plane = speckle();
    for (let y = 0; y < plane.height; y++) plane.data.fill(120, y * plane.stride, y * plane.stride + 170);
    const { vertices, faces } = makeMesh({ outline: SQUARE, spacing: 24, fit: 'texture' }, plane);
    const border = new Set(borderEdges(faces).flat());
    const inner = vertices.filter((_, v) => !border.has(v));
    const bare = inner.filter((v) => v.x < 165).length;
    expect(inner.length - bare).toBeGreaterThan(1.6 * bare);
  });

  it('says why it cannot be made', () => {
    const crossed = [p(0, 0), p(100, 100), p(100, 0), p(0, 100)];
    const of = (outline: Point[], spacing: number) => () => makeMesh({ outline, spacing, fit: 'even' });
    expect(of(crossed, 20)).toThrow('crosses itself near');
    expect(of([p(0, 0), p(10, 0), p(10, 10)], 20)).toThrow('Draw round at least');
    expect(of([p(0, 0), p(50, 0), p(40, 1)], 20)).toThrow('Draw round at least');
    expect(of(SQUARE, 3)).toThrow('Set them farther apart');
    expect(of([p(0, 0), p(30, 0), p(0, 30)], 60)).toThrow('makes a mesh of 3 points');
  });
});

function speckle() {
  const plane = createPlane(340, 280);
  const surface = speckledSurface(4);
  for (let y = 0; y < 280; y++) for (let x = 0; x < 340; x++) plane.data[y * 340 + x] = surface(x, y);
  return plane;
}
