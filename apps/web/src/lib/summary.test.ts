import fc from 'fast-check';
import { extremes, lowest, seenLine } from './summary';

/** What is drawn of long columns: nothing that stands out may be lost, at any zoom. */

const column = fc.array(
  fc.oneof({ weight: 4, arbitrary: fc.integer({ min: -50, max: 50 }) }, fc.constant(NaN)),
  {
    minLength: 1,
    maxLength: 700,
  },
);

describe('the extremes of a stretch', () => {
  it('have whatever lies in it, and nothing that lies more than its own length outside', () => {
    fc.assert(
      fc.property(column, fc.nat(699), fc.nat(699), (values, a, b) => {
        const [from, to] = [Math.min(a, b), Math.max(a, b) + 1];
        const own = values.slice(from, to).filter((v) => !Number.isNaN(v));
        const [low, high] = extremes(values, from, to);
        for (const v of own) expect(low <= v && v <= high).toBe(true);
        expect(lowest(values, from, to)).toBe(low);
        const near = values.slice(Math.max(0, from - (to - from)), to + (to - from));
        if (!Number.isNaN(low)) expect(near).toContain(low);
        if (!Number.isNaN(high)) expect(near).toContain(high);
      }),
    );
  });

  it('are none where there is nothing', () => {
    expect(extremes(new Float64Array(300).fill(NaN), 10, 250)).toEqual([NaN, NaN]);
  });
});

describe('a line as it is seen', () => {
  it('has every value while there is room', () => {
    const values = Float64Array.from({ length: 50 }, (_, i) => (i === 9 ? NaN : i * i));
    const points = seenLine(values, (i) => 4 * i, 200);
    expect(points.map((p) => p.v)).toEqual([...values]);
    expect(points[3]).toEqual({ px: 12, v: 9 });
  });

  it('has a few points a pixel and the highest peak, however long it is', () => {
    const values = Float64Array.from({ length: 108_000 }, (_, i) => Math.sin(i / 900));
    values[77_777] = 9;
    values[33_333] = -7;
    for (const zoom of [1, 4, 50]) {
      const step = (1000 * zoom) / values.length;
      const origin = 77_777 * step - 500;
      const points = seenLine(values, (i) => i * step - (zoom > 1 ? origin : 0), 1000);
      expect(points.length).toBeLessThan(2100);
      expect(Math.max(...points.map((p) => p.v))).toBe(9);
      if (zoom === 1) expect(Math.min(...points.map((p) => p.v))).toBe(-7);
    }
  });

  it('breaks where there is nothing to see', () => {
    const values = Float64Array.from({ length: 10_000 }, (_, i) => (i > 4000 && i < 6000 ? NaN : 1));
    const points = seenLine(values, (i) => i / 10, 1000);
    expect(points.filter((p) => Number.isNaN(p.v)).length).toBeGreaterThan(150);
    expect(points.find((p) => p.px > 700)!.v).toBe(1);
  });
});
