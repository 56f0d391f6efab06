import type { Raster } from './raster.js';
import { withEdge } from './raster-edge.js';
import { boxOfStrokes, brushShare, paintStrokes, type Stroke } from './strokes.js';

const stroke = (
  points: readonly (readonly [number, number, number])[],
  more: Partial<Stroke> = {},
): Stroke => ({
  ...{ tool: 'brush', colour: [200, 100, 50], size: 10, hardness: 1, flow: 1, points },
  ...more,
});
const area = ({ data }: Raster) => data.reduce((s, v, k) => s + (k % 4 === 3 ? v / 255 : 0), 0);

describe('strokes', () => {
  it('cover what their brush passes over, at any scale', () => {
    const strokes = [
      stroke([
        [20, 20, 1],
        [60, 20, 1],
      ]),
    ];
    const box = boxOfStrokes(strokes)!;
    expect(box).toEqual({ left: 14, top: 14, width: 52, height: 12 });
    for (const scale of [1, 2, 3]) {
      const exact = 40 * 10 + Math.PI * 25;
      expect(area(paintStrokes(strokes, box, scale)) / scale ** 2 / exact).toBeCloseTo(1, 1);
    }
  });

  it('are no denser where they cross themselves, and thinner where pressed less', () => {
    const back = stroke(
      [
        [20, 20, 1],
        [60, 20, 1],
        [20, 20, 1],
      ],
      { flow: 0.5 },
    );
    const box = boxOfStrokes([back])!;
    const once = paintStrokes([{ ...back, points: back.points.slice(0, 2) }], box, 1);
    expect(paintStrokes([back], box, 1)).toEqual(once);
    const [full, thin] = [1, 0.5].map((p) => {
      const line = back.points.slice(0, 2).map(([x, y]) => [x, y, p] as const);
      return area(paintStrokes([stroke(line)], box, 1));
    });
    expect(thin / full).toBeCloseTo(0.46, 1);
  });

  it('take away what an eraser passes over; a press without a move is a dab', () => {
    const dab = stroke([[30, 30, 1]]);
    const box = boxOfStrokes([dab])!;
    expect(area(paintStrokes([dab], box, 1)) / (Math.PI * 25)).toBeCloseTo(1, 1);
    expect(area(paintStrokes([dab, { ...dab, tool: 'eraser', size: 30 }], box, 1))).toBe(0);
    expect(boxOfStrokes([{ ...dab, tool: 'eraser' }])).toBeNull();
  });

  it('fall off from their hard part to their edge', () => {
    expect([0, 4, 5.1].map((d) => brushShare(d, 5, 1))).toEqual([1, 1, expect.closeTo(0.4, 5)]);
    expect(brushShare(2.5, 5, 0)).toBeCloseTo(0.5, 9);
    expect([brushShare(0, 5, 0), brushShare(5, 5, 0)]).toEqual([1, 0]);
  });
});

/** A bright disc with a dark line round it, as one that was cut out of a dark picture. */
function disc(radius: number): Raster {
  const size = 60;
  const data = new Uint8Array(4 * size * size);
  for (let y = 0, k = 0; y < size; y++)
    for (let x = 0; x < size; x++, k += 4) {
      const d = Math.hypot(x + 0.5 - 30, y + 0.5 - 30);
      if (d >= radius) continue;
      data.fill(d > radius - 2 ? 20 : 220, k, k + 3);
      data[k + 3] = 255;
    }
  return { width: size, height: size, data };
}

describe('the edge of a raster', () => {
  it('stays as it is when nothing is asked', () => {
    const raster = disc(20);
    expect(withEdge(raster, { grow: 0, soften: 0, blur: 0 })).toBe(raster);
  });

  it('moves by as much as it is told to, with its colour', () => {
    for (const grow of [-6, -3, 4]) {
      const out = withEdge(disc(20), { grow, soften: 0, blur: 0 });
      expect(area(out) / (Math.PI * (20 + grow) ** 2)).toBeCloseTo(1, 1);
      const middle = 4 * ((out.height >> 1) * out.width + (out.width >> 1));
      expect(out.data[middle]).toBe(220);
    }
    // Shrunk by more than the dark line is wide, nothing of it is left.
    const shrunk = withEdge(disc(20), { grow: -4, soften: 0, blur: 0 });
    const dark = shrunk.data.filter((v, k) => k % 4 === 0 && shrunk.data[k + 3] > 200 && v < 150);
    expect(dark).toHaveLength(0);
  });

  it('fades evenly about where it was, and a blur keeps what there is', () => {
    const hard = area(disc(20));
    expect(area(withEdge(disc(20), { grow: 0, soften: 10, blur: 0 })) / hard).toBeCloseTo(1, 1);
    const blurred = withEdge(disc(20), { grow: 0, soften: 0, blur: 3 });
    expect(area(blurred) / hard).toBeCloseTo(1, 2);
    expect([blurred.inner, blurred.width]).toEqual([{ left: 10, top: 10, width: 60, height: 60 }, 80]);
  });
});
