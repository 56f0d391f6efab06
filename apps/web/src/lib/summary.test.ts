import fc from 'fast-check';
import { highestOf, lowestOf, seenColumns } from './summary';

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
        const [low, high] = [lowestOf, highestOf].map((of) => of(values, to - from)(from, to));
        for (const v of own) expect(low <= v && v <= high).toBe(true);
        const near = values.slice(Math.max(0, from - (to - from)), to + (to - from));
        if (!Number.isNaN(low)) expect(near).toContain(low);
        if (!Number.isNaN(high)) expect(near).toContain(high);
      }),
    );
  });

  it('are none where there is nothing', () => {
    const empty = new Float64Array(300).fill(NaN);
    expect([lowestOf, highestOf].map((of) => of(empty, 240)(10, 250))).toEqual([NaN, NaN]);
  });
});

describe('the columns of a curve', () => {
  it('have the highest peak and the deepest dip, however long it is', () => {
    const values = Float64Array.from({ length: 108_000 }, (_, i) => Math.sin(i / 900));
    values[77_777] = 9;
    values[33_333] = -7;
    for (const zoom of [1, 4, 50]) {
      const step = (1000 * zoom) / values.length;
      const origin = zoom > 1 ? 77_777 * step - 500 : 0;
      const { low, high } = seenColumns(values, (i) => i * step - origin, 1000);
      expect(low.length).toBe(1000);
      expect(Math.max(...high)).toBe(9);
      expect(Math.abs(high.indexOf(9) - (77_777 * step - origin))).toBeLessThanOrEqual(1);
      if (zoom === 1) expect(Math.min(...low)).toBe(-7);
    }
  });

  it('are joined, each to the one before it', () => {
    const values = Float64Array.from({ length: 4000 }, (_, i) => (i < 2000 ? 0 : 10));
    const { low, high } = seenColumns(values, (i) => i / 10, 400);
    expect(low[199]).toBe(0);
    expect([low[200], high[200]]).toEqual([0, 10]);
    expect([low[201], high[201]]).toEqual([10, 10]);
    for (let px = 1; px < 400; px++) expect(low[px]).toBeLessThanOrEqual(high[px - 1]);
  });

  it('are none where there is nothing to see, before the curve and after it too', () => {
    const values = Float64Array.from({ length: 10_000 }, (_, i) => (i > 4000 && i < 6000 ? NaN : 1));
    const { low } = seenColumns(values, (i) => 50 + i / 10, 1200);
    const none = [...low].map((v, px) => (Number.isNaN(v) ? px : -1)).filter((px) => px >= 0);
    expect(none.filter((px) => px < 50)).toHaveLength(50);
    expect(none.filter((px) => px > 452 && px < 648)).toHaveLength(195);
    expect(none.filter((px) => px >= 1052)).toHaveLength(148);
    expect(low[500 - 100]).toBe(1);
  });
});
