import { LurnError } from '../errors.js';
import { moveQuad, rectangle, squareToQuad, type Quad } from '../geometry/homography.js';
import { apply, multiply, scaling, type Point } from '../geometry/matrix.js';
import { faceGrowth } from '../geometry/mesh.js';
import { laidFlat } from './laid-flat.js';
import { makeMesh } from './mesh-making.js';

const page = makeMesh({ outline: [...rectangle(100, 80, 400, 300)], spacing: 30, fit: 'even' });
const far = (a: readonly Point[], b: readonly Point[]) =>
  Math.max(...a.map((p, i) => Math.hypot(p.x - b[i].x, p.y - b[i].y)));

describe('laidFlat', () => {
  it('sees a page that leans from straight ahead', () => {
    const seen: Quad = [{ x: 140, y: 100 }, { x: 380, y: 70 }, { x: 420, y: 310 }, { x: 90, y: 280 }]; // prettier-ignore
    const lean = multiply(squareToQuad(seen)!, scaling(1 / 300, 1 / 220));
    const shifted = page.vertices.map(({ x, y }) => apply(lean, x - 100, y - 80));
    const flat = laidFlat({ ...page, vertices: shifted }, { corners: moveQuad(lean, rectangle(0, 0, 300, 220)), straight: false }); // prettier-ignore
    // What was a rectangle is one again: every vertex by its share of the sides.
    const [w, h] = [size(flat, 'x'), size(flat, 'y')];
    const [x0, y0] = [Math.min(...flat.map((p) => p.x)), Math.min(...flat.map((p) => p.y))];
    const want = page.vertices.map((p) => ({
      x: x0 + ((p.x - 100) / 300) * w,
      y: y0 + ((p.y - 80) / 220) * h,
    }));
    expect(far(flat, want)).toBeLessThan(1e-6);
  });

  it('straightens an outline that bulges', () => {
    const bulging = page.vertices.map(({ x, y }) => ({
      x: x + 20 * Math.sin(((y - 80) / 220) * Math.PI),
      y: y - 30 * Math.sin(((x - 100) / 300) * Math.PI),
    }));
    const corners = rectangle(100, 80, 400, 300);
    const flat = laidFlat({ ...page, vertices: bulging }, { corners, straight: true });
    expect(Math.min(...flat.map((p) => p.y))).toBeCloseTo(80, 6);
    expect(Math.max(...flat.map((p) => p.x))).toBeCloseTo(400, 6);
    expect(page.faces.every((face) => faceGrowth(face, bulging, flat) > 0)).toBe(true);
    // The sheet comes back to where it was, but for how its sides are told by their lengths.
    expect(far(flat, page.vertices)).toBeLessThan(5);
  });

  it('leaves a rectangle as it is', () => {
    const corners = rectangle(100, 80, 400, 300);
    for (const straight of [true, false])
      expect(far(laidFlat(page, { corners, straight }), page.vertices)).toBeLessThan(0.02);
  });

  it.each([
    [
      'flat-corners',
      [
        { x: 0, y: 0 },
        { x: 0, y: 10 },
        { x: 10, y: 10 },
        { x: 10, y: 0 },
      ],
      false,
    ],
    [
      'flat-corners',
      [
        { x: 100, y: 80 },
        { x: 101, y: 80 },
        { x: 101, y: 81 },
        { x: 100, y: 81 },
      ],
      true,
    ],
    [
      'flat-horizon',
      [
        { x: 180, y: 100 },
        { x: 200, y: 100 },
        { x: 400, y: 110 },
        { x: 0, y: 110 },
      ],
      false,
    ],
  ] as const)('says %s where the corners will not do', (code, corners, straight) => {
    expect(() => laidFlat(page, { corners: corners as unknown as Quad, straight })).toThrow(
      expect.objectContaining({ code }) as unknown as LurnError,
    );
  });
});

function size(list: readonly Point[], axis: 'x' | 'y'): number {
  return Math.max(...list.map((p) => p[axis])) - Math.min(...list.map((p) => p[axis]));
}
