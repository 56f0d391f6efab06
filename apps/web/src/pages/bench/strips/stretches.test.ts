import fc from 'fast-check';
import { stretchesOf } from './stretches';

/** What a ribbon is drawn of: few pieces, and nothing that stands out is lost. */

describe('stretches that look the same', () => {
  it('are one where nothing changes, at any zoom', () => {
    const values = new Float32Array(5000).fill(0.9);
    const value = expect.closeTo(0.9);
    expect(stretchesOf(values, (i) => 10 + (i + 0.5) / 10, 1000)).toEqual([{ from: 10, to: 510, value }]);
    expect(stretchesOf(values, (i) => (i + 0.5) * 4 - 8, 1000)).toEqual([{ from: 0, to: 1000, value }]);
  });

  it('lie where their samples do, each as wide as it is', () => {
    const values = Float32Array.from([NaN, 1, 1, 0.5, NaN, NaN, 0.25]);
    expect(stretchesOf(values, (i) => (i + 0.5) * 10, 1000)).toEqual([
      { from: 10, to: 30, value: 1 },
      { from: 30, to: 40, value: 0.5 },
      { from: 60, to: 70, value: 0.25 },
    ]);
  });

  it('show one low sample of a hundred thousand, and nothing where there is none', () => {
    const values = Float32Array.from({ length: 108_000 }, (_, i) => (i > 60_000 && i < 70_000 ? NaN : 0.9));
    values[33_333] = 0.1;
    const found = stretchesOf(values, (i) => (i + 0.5) / 108, 1000);
    const low = found.filter((s) => s.value < 0.2);
    expect(low).toHaveLength(1);
    expect(low[0].from).toBeLessThanOrEqual(33_333 / 108);
    expect(low[0].to).toBeGreaterThanOrEqual(33_334 / 108);
    expect(found.some((s) => s.from < 640 && s.to > 560)).toBe(false);
  });

  it('follow one another and stay within what is seen', () => {
    const value = fc.oneof(
      { weight: 5, arbitrary: fc.float({ min: 0, max: 1, noNaN: true }) },
      fc.constant(NaN),
    );
    fc.assert(
      fc.property(
        fc.array(value, { minLength: 1, maxLength: 400 }),
        fc.double({ min: 0.02, max: 30, noNaN: true }),
        fc.double({ min: -300, max: 300, noNaN: true }),
        (values, step, left) => {
          const found = stretchesOf(values, (i) => left + (i + 0.5) * step, 500);
          let last = -Infinity;
          for (const s of found) {
            expect(s.from).toBeGreaterThanOrEqual(last);
            expect(s.to).toBeGreaterThan(s.from);
            last = s.to;
          }
          if (found.length > 0) {
            expect(found[0].from).toBeGreaterThan(-step - 1);
            expect(last).toBeLessThanOrEqual(500 + step + 1);
          }
          // A sample that is wide enough to be seen is in some stretch, at no more than its own value.
          values.forEach((v, i) => {
            const middle = left + (i + 0.5) * step;
            if (Number.isNaN(v) || step < 2 || middle < 0 || middle > 500) return;
            const in_ = found.find((s) => s.from <= middle && s.to >= middle);
            expect(in_ && Math.abs(in_.value - v)).toBeLessThan(0.021);
          });
        },
      ),
    );
  });
});
