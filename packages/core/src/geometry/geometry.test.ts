import fc from 'fast-check';
import { apply, chain, IDENTITY, invert, multiply, translation, type Matrix3 } from './matrix.js';
import { composeSimilarity, decomposeSimilarity, fitSimilarity, unwrapAngles } from './similarity.js';

const parts = fc.record({
  x: fc.double({ min: -500, max: 500, noNaN: true }),
  y: fc.double({ min: -500, max: 500, noNaN: true }),
  rotation: fc.double({ min: -3, max: 3, noNaN: true }),
  logScale: fc.double({ min: -1, max: 1, noNaN: true }),
});
const point = fc.record({
  x: fc.double({ min: -2000, max: 2000, noNaN: true }),
  y: fc.double({ min: -2000, max: 2000, noNaN: true }),
});
const aspect = fc.constantFrom(1, 1.0667, 4 / 3, 0.9);

function expectClose(a: Matrix3, b: Matrix3, digits = 6): void {
  a.forEach((v, i) => expect(v).toBeCloseTo(b[i], digits));
}

describe('matrices', () => {
  it('a matrix times its inverse is the identity', () => {
    fc.assert(
      fc.property(parts, point, (p, pivot) => {
        const m = composeSimilarity(p, pivot);
        expectClose(multiply(m, invert(m)), IDENTITY);
      }),
    );
  });

  it('applies the last of a chain first', () => {
    const turn: Matrix3 = [0, -1, 0, 1, 0, 0, 0, 0, 1];
    const p = apply(chain(translation(10, 0), turn), 1, 0);
    expect([p.x, p.y]).toEqual([10, 1]);
  });

  it('refuses to invert a singular matrix', () => {
    expect(() => invert([1, 2, 0, 2, 4, 0, 0, 0, 1])).toThrow(RangeError);
  });
});

describe('similarities', () => {
  it('come apart into the parts they were composed of', () => {
    fc.assert(
      fc.property(parts, point, aspect, (p, pivot, pixelAspect) => {
        const back = decomposeSimilarity(composeSimilarity(p, pivot, pixelAspect), pivot, pixelAspect);
        for (const key of ['x', 'y', 'rotation', 'logScale'] as const)
          expect(back[key]).toBeCloseTo(p[key], 6);
      }),
    );
  });

  it('turn clockwise on screen for positive angles', () => {
    const p = apply(
      composeSimilarity({ x: 0, y: 0, rotation: Math.PI / 2, logScale: 0 }, { x: 0, y: 0 }),
      1,
      0,
    );
    expect(p.x).toBeCloseTo(0);
    expect(p.y).toBeCloseTo(1); // y is down: from right to below is clockwise
  });

  it('are recovered exactly from the points they move', () => {
    fc.assert(
      fc.property(
        parts,
        fc.array(point, { minLength: 2, maxLength: 8 }),
        aspect,
        (p, points, pixelAspect) => {
          const spread = Math.max(...points.map((q) => Math.hypot(q.x - points[0].x, q.y - points[0].y)));
          fc.pre(spread > 10);
          const m = composeSimilarity(p, { x: 100, y: 50 }, pixelAspect);
          const fit = fitSimilarity(
            points.map((q) => {
              const to = apply(m, q.x, q.y);
              return { fromX: q.x, fromY: q.y, toX: to.x, toY: to.y, weight: 1 };
            }),
            pixelAspect,
          );
          for (const q of points) {
            const a = apply(fit!, q.x, q.y);
            const b = apply(m, q.x, q.y);
            expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeLessThan(1e-6);
          }
        },
      ),
    );
  });

  it('are not determined by one point, nor by two that coincide', () => {
    const pair = { fromX: 1, fromY: 2, toX: 3, toY: 4, weight: 1 };
    expect(fitSimilarity([pair])).toBeNull();
    expect(fitSimilarity([pair, pair])).toBeNull();
  });

  it('weights: a point of no weight changes nothing', () => {
    const good = [0, 100, 200].map((v) => ({
      fromX: v,
      fromY: v * v * 0.01,
      toX: v + 5,
      toY: v * v * 0.01,
      weight: 1,
    }));
    const wild = { fromX: 50, fromY: 50, toX: 900, toY: -900, weight: 0 };
    expectClose(fitSimilarity([...good, wild])!, fitSimilarity(good)!);
  });

  it('unwraps angles through whole turns', () => {
    const truth = Array.from({ length: 60 }, (_, i) => i * 0.4 - 5);
    const wrapped = truth.map((a) => Math.atan2(Math.sin(a), Math.cos(a)));
    const back = unwrapAngles(wrapped);
    truth.forEach((a, i) => expect(back[i] - back[0]).toBeCloseTo(a - truth[0], 9));
  });
});
