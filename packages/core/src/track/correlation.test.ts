import { peaksOf, type ScoreMap } from './correlation.js';

/** Peaks of score maps whose tops are known, on samples and between them. */

/** A sum of round hills, sampled on a grid of 15 x 15. */
function mapOf(hills: readonly { x: number; y: number; top: number }[]): ScoreMap {
  const scores = new Float64Array(15 * 15);
  for (let j = 0; j < 15; j++)
    for (let i = 0; i < 15; i++)
      for (const { x, y, top } of hills)
        scores[j * 15 + i] += top * Math.exp(-((i - x) ** 2 + (j - y) ** 2) / 6);
  return { x0: -7, y0: -7, columns: 15, rows: 15, scores };
}

describe('peaks', () => {
  it.each([
    [7, 7],
    [7.5, 7],
    [7.5, 7.5],
    [6.8, 7.3],
  ])('are found between samples, as high as they are: (%d, %d)', (x, y) => {
    const [peak] = peaksOf(mapOf([{ x, y, top: 0.9 }]), 1);
    expect(Math.hypot(peak.x + 7 - x, peak.y + 7 - y)).toBeLessThan(0.05);
    expect(Math.abs(peak.score - 0.9)).toBeLessThan(0.02);
  });

  it('between four samples are not passed over for a lower one that lies on a sample', () => {
    const map = mapOf([
      { x: 3.5, y: 3.5, top: 0.9 },
      { x: 11, y: 11, top: 0.86 },
    ]);
    // The samples themselves say the opposite.
    expect(map.scores[3 * 15 + 3]).toBeLessThan(map.scores[11 * 15 + 11]);
    const [first, second] = peaksOf(map, 2);
    expect([Math.round(first.x + 7 - 0.5), Math.round(second.x + 7)]).toEqual([3, 11]);
    expect(first.score).toBeGreaterThan(second.score);
  });

  it('stay within the scale of scores, and on the rim of the map', () => {
    const [peak] = peaksOf(mapOf([{ x: 7.5, y: 7.5, top: 1.05 }]), 1);
    expect(peak.score).toBeLessThanOrEqual(1);
    const [rim] = peaksOf(mapOf([{ x: 0, y: 7, top: 0.8 }]), 1);
    expect([rim.x, rim.score]).toEqual([-7, expect.closeTo(0.8, 1)]);
  });

  it('are none where no place could be scored', () => {
    const scores = new Float64Array(9).fill(-2);
    expect(peaksOf({ x0: 0, y0: 0, columns: 3, rows: 3, scores }, 4)).toEqual([]);
  });
});
