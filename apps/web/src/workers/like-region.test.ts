import type { ColourRange } from '@lurn/core/compose';
import { twiceArea, type Matrix3 } from '@lurn/core/geometry';
import { createPlane, PlaneCoding } from '@lurn/core/picture';
import { likenessOf, regionOfColour } from './like-region';

const coding = new PlaneCoding({ range: 'tv', space: 'bt709' }, 720);

/** A picture of one colour with a disc of another, in planes; 4:2:0. */
function picture(width: number, height: number, inside: (x: number, y: number) => boolean) {
  const [y, u, v] = [createPlane(width, height), createPlane(width / 2, height / 2), createPlane(width / 2, height / 2)]; // prettier-ignore
  const codes = ([r, g, b]: readonly number[]) => {
    const out = new Float64Array(3);
    coding.toPlanes(r, g, b, out);
    return out;
  };
  const [red, slate] = [codes([0.8, 0.2, 0.2]), codes([0.3, 0.4, 0.5])];
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const colour = inside(i + 0.5, j + 0.5) ? red : slate;
      y.data[j * y.stride + i] = Math.round(colour[0]);
      u.data[(j >> 1) * u.stride + (i >> 1)] = Math.round(colour[1]);
      v.data[(j >> 1) * v.stride + (i >> 1)] = Math.round(colour[2]);
    }
  return { y, u, v, subsampling: { x: 2, y: 2 } as const };
}

const RED: ColourRange = { colour: [204, 51, 51], reach: 0.1, soften: 0.05, brightness: false };
const disc = (x: number, y: number) => Math.hypot(x - 500, y - 300) < 160;

test('a red disc is what hangs together with a place on it, told in pixels of the upright picture', () => {
  const made = picture(1280, 720, disc);
  // Filmed upside down: a place of the upright picture lies on the other side of the middle.
  for (const fromUpright of [
    [1, 0, 0, 0, 1, 0, 0, 0, 1],
    [-1, 0, 1280, 0, -1, 720, 0, 0, 1],
  ] as Matrix3[]) {
    // prettier-ignore
    const turned = fromUpright[0] < 0;
    const at = turned ? { x: 780, y: 420 } : { x: 500, y: 300 };
    const { outline, holes } = regionOfColour(made, coding, RED, at, fromUpright)!;
    expect(holes).toEqual([]);
    expect(Math.abs(twiceArea(outline)) / 2 / (Math.PI * 160 * 160)).toBeCloseTo(1, 1);
    for (const p of outline) expect(Math.abs(Math.hypot(p.x - at.x, p.y - at.y) - 160)).toBeLessThan(5);
    expect(regionOfColour(made, coding, RED, { x: 100, y: 100 }, fromUpright)).toBeNull();
  }
});

test('brightness is the mean of the samples, colour that of their middle', () => {
  const { data, width } = likenessOf(picture(64, 64, () => true), coding, RED, 4); // prettier-ignore
  expect(width).toBe(16);
  expect(Math.min(...data)).toBe(1);
  const none = likenessOf(picture(64, 64, () => false), coding, RED, 4); // prettier-ignore
  expect(Math.max(...none.data)).toBe(0);
});
