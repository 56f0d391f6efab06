import fc from 'fast-check';
import { randomNumbers } from '../testing/footage.js';
import { optimalPath, PATH_WEIGHTS } from './optimal-path.js';

/** The path of one component within a corridor round `middle`. */
function within(middle: readonly number[], half: number, gap = 1e-6): number[] {
  return [
    ...optimalPath({
      frames: middle.length,
      components: 1,
      start: Float64Array.from(middle),
      low: Float64Array.from(middle, (m) => m - half),
      high: Float64Array.from(middle, (m) => m + half),
      limits: { count: 0, rows: new Float64Array(0), bounds: new Float64Array(0) },
      weights: PATH_WEIGHTS,
      gap,
    }),
  ];
}

const differences = (v: readonly number[]) => v.slice(1).map((b, i) => b - v[i]);
const size = (v: readonly number[]) => v.reduce((s, d) => s + Math.abs(d), 0);
function cost(path: readonly number[]): number {
  const first = differences(path);
  const second = differences(first);
  return (
    PATH_WEIGHTS[0] * size(first) +
    PATH_WEIGHTS[1] * size(second) +
    PATH_WEIGHTS[2] * size(differences(second))
  );
}

const shaken = (n: number, seed: number, of: (f: number) => number) => {
  const random = randomNumbers(seed);
  return Array.from({ length: n }, (_, f) => of(f) + 6 * (random() - 0.5));
};

describe('the L1-optimal path', () => {
  it('stands still where the corridor allows it', () => {
    const path = within(
      shaken(60, 1, () => 40),
      4,
    );
    expect(Math.max(...path) - Math.min(...path)).toBeLessThan(1e-3);
  });

  it('keeps within its limits, and no path within them costs less', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.double({ min: 0.5, max: 8, noNaN: true }),
        (seed, half) => {
          const middle = shaken(40, seed, (f) => 30 * Math.sin(f / 12));
          const path = within(middle, half);
          path.forEach((p, f) => expect(Math.abs(p - middle[f])).toBeLessThan(half + 1e-4));
          const random = randomNumbers(seed + 1);
          const least = cost(path);
          for (let trial = 0; trial < 20; trial++) {
            // Mixed with any other path of the corridor, it only gets dearer: the cost is convex.
            const other = middle.map((m) => m + half * (2 * random() - 1));
            const mixed = path.map((p, f) => p + 0.02 * (other[f] - p));
            expect(cost(mixed)).toBeGreaterThan(least - 1e-3);
          }
        },
      ),
      { numRuns: 25 },
    );
  });

  it('goes in pieces: most frames have no third difference at all', () => {
    const middle = shaken(150, 5, (f) => (f < 50 ? 0 : f < 100 ? 2 * (f - 50) : 100));
    const third = differences(differences(differences(within(middle, 5, 1e-8))));
    const largest = Math.max(...third.map(Math.abs));
    expect(third.filter((d) => Math.abs(d) > 0.02 * largest).length).toBeLessThan(third.length / 4);
  });

  it('is the only path that there is where the corridor has no width', () => {
    const middle = shaken(12, 8, (f) => f);
    within(middle, 1e-5).forEach((p, f) => expect(p).toBeCloseTo(middle[f], 3));
  });

  it('keeps limits that tie the components of a frame together', () => {
    const frames = 50;
    const across = shaken(frames, 21, (f) => f);
    const down = shaken(frames, 22, (f) => 0.5 * f);
    const start = Float64Array.from({ length: 2 * frames }, (_, i) => (i % 2 ? down : across)[i >> 1]);
    const rows = new Float64Array(4 * frames);
    const bounds = new Float64Array(2 * frames);
    for (let f = 0; f < frames; f++) {
      // |x + y - their middle| <= 2 on every frame, whatever each of them does.
      rows.set([1, 1, -1, -1], 4 * f);
      bounds[2 * f] = across[f] + down[f] + 2;
      bounds[2 * f + 1] = 2 - across[f] - down[f];
    }
    const path = optimalPath({
      ...{ frames, components: 2, start, weights: PATH_WEIGHTS, gap: 1e-7 },
      low: start.map((v) => v - 50),
      high: start.map((v) => v + 50),
      limits: { count: 2, rows, bounds },
    });
    const off = Array.from({ length: frames }, (_, f) =>
      Math.abs(path[2 * f] + path[2 * f + 1] - across[f] - down[f]),
    );
    expect(Math.max(...off)).toBeLessThan(2 + 1e-5);
    // They bind: standing as still as can be leans on them.
    expect(Math.max(...off)).toBeGreaterThan(1.99);
  });
});
