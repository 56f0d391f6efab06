import fc from 'fast-check';
import { apply, chain, invert, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import {
  breathingZoom,
  deliveryScale,
  deliveryWindow,
  fitZoom,
  framingMatrix,
  neededZoom,
  showsEdge,
  worstFrames,
} from './framing.js';

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

describe('a breathing zoom', () => {
  const curve = fc.array(fc.double({ min: 1, max: 1.6, noNaN: true }), { minLength: 2, maxLength: 60 });
  const rate = fc.double({ min: 0.002, max: 0.2, noNaN: true });

  it('shows no edge, and changes no faster than it may', () => {
    fc.assert(
      fc.property(curve, rate, (values, most) => {
        const zooms = breathingZoom(Float64Array.from(values), 0, values.length - 1, most);
        values.forEach((needed, f) => {
          expect(showsEdge(needed, zooms[f])).toBe(false);
          if (f > 0) expect(Math.abs(Math.log(zooms[f] / zooms[f - 1]))).toBeLessThan(most + 1e-12);
        });
      }),
    );
  });

  it('is the smallest such zoom: 0.1 % less on any frame shows an edge or changes too fast', () => {
    fc.assert(
      fc.property(curve, rate, fc.nat(), (values, most, at) => {
        const needed = Float64Array.from(values);
        const zooms = breathingZoom(needed, 0, values.length - 1, most);
        const f = at % values.length;
        fc.pre(zooms[f] > 1.002);
        const less = zooms[f] * 0.999;
        const near = [f - 1, f + 1].filter((i) => i >= 0 && i < values.length);
        const edge = showsEdge(needed[f], less);
        const fast = near.some((i) => Math.log(zooms[i] / less) > most + 1e-12);
        expect(edge || fast).toBe(true);
      }),
    );
  });

  it('is held outside the range, and passes over frames that no zoom helps', () => {
    const needed = Float64Array.from([9, 1.1, Infinity, 1.2, 9]);
    const zooms = breathingZoom(needed, 1, 3, 0.02);
    expect(zooms[0]).toBe(zooms[1]);
    expect(zooms[4]).toBeCloseTo(1.2, 12);
    expect([...zooms].every((z) => z < 1.21)).toBe(true);
  });
});

describe('the worst frames', () => {
  it('are the peaks of the range, the highest first, each once', () => {
    const needed = Float64Array.from([2, 1, 1.2, 1.2, 1, 1.5, 1.4, 1.45, 1, 3]);
    expect(worstFrames(needed, 1, 8)).toEqual([5, 7, 2]);
    expect(worstFrames(Float64Array.from([1, 1, 1]), 0, 2)).toEqual([]);
  });
});

describe('delivery', () => {
  it('of another shape cuts off what does not fit, about the middle', () => {
    expect(deliveryWindow(SIZE, { width: 1080, height: 1080 })).toEqual({ width: 720, height: 720 });
    expect(deliveryScale(SIZE, { width: 640, height: 360 })).toBe(0.5);
    const f = framingMatrix({ zoom: 1, shiftX: 0, shiftY: 0 }, SIZE, { width: 1080, height: 1080 });
    expect(apply(f, 280, 0)).toEqual({ x: 0, y: 0 });
    expect(apply(f, 1000, 720)).toEqual({ x: 1080, y: 1080 });
  });

  it('of a narrow window needs less zoom across, and exactly as much as it shows', () => {
    fc.assert(
      fc.property(correction, shift, (s, by) => {
        const window = deliveryWindow(SIZE, { width: 720, height: 720 });
        const zoom = neededZoom(s, by, SIZE, window);
        fc.pre(Number.isFinite(zoom) && zoom < 50);
        expect(zoom).toBeLessThanOrEqual(neededZoom(s, by, SIZE) + 1e-9);
        const back = (z: number) =>
          invert(chain(framingMatrix({ zoom: z, ...by }, SIZE, { width: 720, height: 720 }), s));
        const worst = (z: number) =>
          Math.max(
            ...[0, 720].flatMap((x) =>
              [0, 720].flatMap((y) => {
                const p = apply(back(z), x, y);
                return [-p.x, p.x - SIZE.width, -p.y, p.y - SIZE.height];
              }),
            ),
          );
        expect(worst(zoom)).toBeLessThan(1e-6);
        expect(worst(zoom * 0.999)).toBeGreaterThan(1e-4);
      }),
    );
  });
});
