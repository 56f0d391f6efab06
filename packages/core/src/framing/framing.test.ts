import fc from 'fast-check';
import { apply, chain, invert, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import { fitZoom, framingMatrix, neededZoom, showsEdge } from './framing.js';

const SIZE = { width: 1280, height: 720 };
const correction = fc
  .record({
    x: fc.double({ min: -200, max: 200, noNaN: true }),
    y: fc.double({ min: -120, max: 120, noNaN: true }),
    rotation: fc.double({ min: -0.3, max: 0.3, noNaN: true }),
    logScale: fc.double({ min: -0.3, max: 0.3, noNaN: true }),
  })
  .map((p) => composeSimilarity(p, { x: 500, y: 300 }));
const shift = fc.record({
  shiftX: fc.double({ min: -60, max: 60, noNaN: true }),
  shiftY: fc.double({ min: -60, max: 60, noNaN: true }),
});

/** How far the worst output place lies outside the source, in pixels, over a dense walk round the frame's rim. */
function outside(s: Matrix3, zoom: number, by: { shiftX: number; shiftY: number }): number {
  const back = invert(chain(framingMatrix({ zoom, ...by }, SIZE), s));
  let worst = -Infinity;
  for (let i = 0; i <= 40; i++) {
    const t = i / 40;
    for (const [x, y] of [
      [t, 0],
      [t, 1],
      [0, t],
      [1, t],
    ]) {
      const p = apply(back, x * SIZE.width, y * SIZE.height);
      worst = Math.max(worst, -p.x, p.x - SIZE.width, -p.y, p.y - SIZE.height);
    }
  }
  return worst;
}

describe('fit zoom', () => {
  it('shows no edge at the zoom given, and one at 0.1 % less', () => {
    fc.assert(
      fc.property(correction, shift, (s, by) => {
        const zoom = neededZoom(s, by, SIZE);
        fc.pre(Number.isFinite(zoom) && zoom < 50);
        expect(outside(s, zoom, by)).toBeLessThan(1e-6);
        expect(outside(s, zoom * 0.999, by)).toBeGreaterThan(1e-4);
      }),
      { numRuns: 300 },
    );
  });

  it('holds for perspective corrections too', () => {
    fc.assert(
      fc.property(correction, fc.double({ min: -2e-4, max: 2e-4, noNaN: true }), (s, g) => {
        const m = chain([1, 0, 0, 0, 1, 0, g, g / 2, 1], s);
        const zoom = neededZoom(m, { shiftX: 0, shiftY: 0 }, SIZE);
        fc.pre(Number.isFinite(zoom) && zoom < 20);
        expect(outside(m, zoom, { shiftX: 0, shiftY: 0 })).toBeLessThan(1e-6);
        expect(outside(m, zoom * 0.999, { shiftX: 0, shiftY: 0 })).toBeGreaterThan(1e-5);
      }),
    );
  });

  it('is 1 for a picture left as it was, and Infinity where the centre has left the source', () => {
    expect(neededZoom([1, 0, 0, 0, 1, 0, 0, 0, 1], { shiftX: 0, shiftY: 0 }, SIZE)).toBe(1);
    expect(neededZoom([1, 0, 700, 0, 1, 0, 0, 0, 1], { shiftX: 0, shiftY: 0 }, SIZE)).toBe(Infinity);
  });

  it('is exact for a plain move: 64 px of 1280 to one side need 1 / 0.9', () => {
    expect(neededZoom([1, 0, 64, 0, 1, 0, 0, 0, 1], { shiftX: 0, shiftY: 0 }, SIZE)).toBeCloseTo(1 / 0.9, 12);
  });

  it('names the frame that forces it, within the range', () => {
    const needed = Float64Array.from([1, 1.05, 1.2, 1.1, 1.3]);
    expect(fitZoom(needed, 0, 3)).toEqual({ zoom: 1.2, frame: 2 });
    expect(showsEdge(1.2, 1.2)).toBe(false);
    expect(showsEdge(1.2, 1.1999)).toBe(true);
  });
});
