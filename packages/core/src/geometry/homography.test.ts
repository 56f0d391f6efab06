import fc from 'fast-check';
import {
  isClockwise,
  isFacing,
  moveQuad,
  normalisedAt,
  quadToQuad,
  rectangle,
  squareToQuad,
  tangentAt,
  type Quad,
} from './homography.js';
import { apply } from './matrix.js';
import { crossesItself, faultOfOutline, faultOfQuad, quadRound, signedArea } from './shape.js';

const near = (v: number) => fc.double({ min: v - 30, max: v + 30, noNaN: true });
const point = (x: number, y: number) => fc.record({ x: near(x), y: near(y) });
/** Convex quads of about a hundred pixels. */
const quads = fc
  .tuple(point(50, 50), point(250, 50), point(250, 200), point(50, 200))
  .map((q): Quad => q)
  .filter(isClockwise);

describe('a homography of quads', () => {
  it('takes each corner to its own, and back', () => {
    fc.assert(
      fc.property(quads, quads, (from, to) => {
        const m = quadToQuad(from, to)!;
        moveQuad(m, from).forEach((p, k) => {
          expect(p.x).toBeCloseTo(to[k].x, 6);
          expect(p.y).toBeCloseTo(to[k].y, 6);
        });
        expect(isFacing(m, from)).toBe(true);
      }),
    );
  });

  it('touches its tangent, which tells where a place near by goes', () => {
    fc.assert(
      fc.property(quads, point(150, 120), (to, at) => {
        const m = squareToQuad(to)!;
        const u = { x: at.x / 400, y: at.y / 400 };
        const t = tangentAt(m, u);
        const [p, q] = [apply(m, u.x + 1e-5, u.y - 1e-5), apply(t, u.x + 1e-5, u.y - 1e-5)];
        expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeLessThan(1e-5);
        const n = normalisedAt(m, u);
        expect(n[6] * u.x + n[7] * u.y + n[8]).toBeCloseTo(1, 12);
      }),
    );
  });

  it('of corners on a line is none', () => {
    const flat: Quad = [
      { x: 0, y: 0 },
      { x: 1, y: 0 },
      { x: 2, y: 0 },
      { x: 3, y: 0 },
    ];
    expect(quadToQuad(rectangle(0, 0, 1, 1), flat)).toBeNull();
    expect(quadToQuad(flat, rectangle(0, 0, 1, 1))).toBeNull();
  });
});

describe('shapes', () => {
  const square = rectangle(10, 10, 60, 50);

  it('have an area that is positive clockwise', () => {
    expect(signedArea(square)).toBe(2000);
    expect(signedArea([...square].reverse())).toBe(-2000);
  });

  it.each([
    ['crosses itself', [square[0], square[2], square[1], square[3]]],
    ['has fewer than three corners', square.slice(0, 2)],
    ['has no area', [square[0], { x: 11, y: 10 }, { x: 10, y: 11 }]],
    ['lies outside the picture of 5 x 100 pixels', square],
  ])('that %s are told of', (fault, outline) => {
    expect(faultOfOutline(outline, 5, 100)).toBe(fault);
  });

  it('of five hundred corners are as good as any', () => {
    const round = Array.from({ length: 500 }, (_, i) => ({
      x: 50 + 40 * Math.cos(i / 79.58),
      y: 50 + 40 * Math.sin(i / 79.58),
    }));
    expect(faultOfOutline(round, 100, 100)).toBeNull();
    expect(crossesItself(round)).toBe(false);
    expect(isClockwise(quadRound(round)!)).toBe(true);
  });

  it('suggest the quad that they were drawn round, from its top left', () => {
    const askew: Quad = [
      { x: 12, y: 9 },
      { x: 190, y: 30 },
      { x: 180, y: 140 },
      { x: 8, y: 150 },
    ];
    const between = (k: number) => {
      const [a, b] = [askew[k], askew[(k + 1) % 4]];
      return { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 };
    };
    const outline = [2, 3, 0, 1].flatMap((k) => [askew[k], between(k)]);
    expect(quadRound(outline)).toEqual(askew);
    expect(quadRound([...outline].reverse())).toEqual(askew);
  });

  it('that no rectangle looks like are no quads', () => {
    expect(faultOfQuad(square)).toBeNull();
    expect(faultOfQuad([...square].reverse() as unknown as Quad)).toMatch(/turned over/);
    expect(faultOfQuad([square[0], square[2], square[1], square[3]])).toMatch(/not convex/);
  });
});
