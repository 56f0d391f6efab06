import { bridgeGaps } from './bridge.js';

const filled = (values: readonly (number | null)[]) => {
  const out = Float64Array.from(values, (v) => v ?? NaN);
  bridgeGaps(
    out,
    values.map((v) => v !== null),
  );
  return [...out];
};
const gap = (n: number) => Array.from({ length: n }, () => null);
const bends = (v: readonly number[]) => v.slice(2).map((c, i) => Math.abs(c - 2 * v[i + 1] + v[i]));

describe('bridging a gap', () => {
  it('goes on straight where both sides do, and holds the ends', () => {
    const course = filled([null, null, 1, 2, 3, ...gap(6), 10, 11, null]);
    [1, 1, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 11].forEach((v, i) => expect(course[i]).toBeCloseTo(v, 9));
  });

  it('leaves what is known as it is, and does nothing where nothing is', () => {
    expect(filled([3, 5, null, 2])).toMatchObject({ 0: 3, 1: 5, 3: 2 });
    expect(filled([null, null])).toEqual([NaN, NaN]);
    expect(filled([4, null])).toEqual([4, 4]);
  });

  it('takes speed over from one side and brings it to the other without a corner', () => {
    const course = filled([0, 2, 4, ...gap(10), 0, -2, -4]);
    expect(Math.max(...bends(course))).toBeLessThan(1);
    expect(course[3]).toBeGreaterThan(5);
    // A straight bridge would break by two pixels at either end.
    expect(
      Math.max(...bends([0, 2, 4, ...gap(10).map((_, i) => 4 - (4 * (i + 1)) / 11), 0, -2, -4])),
    ).toBeGreaterThan(2);
  });

  it('does not run away across a long gap', () => {
    const course = filled([0, 8, 16, ...gap(200), 16, 24]);
    expect(Math.max(...course)).toBeLessThan(16 + 8 * 9);
    expect((course[102] + course[103]) / 2).toBeCloseTo(16, 3);
  });
});
