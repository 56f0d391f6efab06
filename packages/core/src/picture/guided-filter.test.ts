import { randomNumbers } from '../numbers.js';
import { GuidedFilter } from './guided-filter.js';
import { climbsOf, geodesicDistance } from './geodesic.js';
import { planeOver } from './plane.js';

const [W, H] = [60, 40];
const picture = (of: (x: number, y: number) => number) =>
  Float32Array.from({ length: W * H }, (_, p) => of(p % W, Math.floor(p / W)));
/** A step of brightness at x = 30. */
const step = picture((x) => (x < 30 ? 60 : 160));

describe('a guided filter', () => {
  it('smooths, but not over an edge of the picture', () => {
    const random = randomNumbers(3);
    const values = picture((x) => (x < 30 ? 0 : 1) + 0.4 * (random() - 0.5));
    new GuidedFilter([step], W, H, 4, 10).apply(values);
    for (let y = 8; y < H - 8; y++) {
      expect(values[y * W + 29]).toBeLessThan(0.12);
      expect(values[y * W + 30]).toBeGreaterThan(0.88);
    }
    const flat = new Float32Array(W * H).fill(0.7);
    new GuidedFilter([step], W, H, 4, 10).apply(flat);
    for (const v of flat) expect(v).toBeCloseTo(0.7, 4);
  });

  it('is a mean over windows twice where the picture has no edge', () => {
    const values = picture((x, y) => (x === 20 && y === 20 ? 1 : 0));
    new GuidedFilter([picture(() => 90)], W, H, 2, 10).apply(values);
    expect(values[20 * W + 20]).toBeCloseTo(1 / 25, 5);
    expect(values[20 * W + 24]).toBeCloseTo(1 / 125, 5);
    expect(values[20 * W + 25]).toBe(0);
  });

  it('puts a rim on the edge of a larger picture, finer than its own samples', () => {
    // The edge lies at 61 of 120: no rim between samples of the half that is told apart.
    const large = planeOver(
      Uint8Array.from({ length: 4 * W * H }, (_, p) => (p % (2 * W) < 61 ? 60 : 160)),
      2 * W,
      2 * H,
    );
    const guide = picture((x) => (x < 30 ? 60 : x > 30 ? 160 : 110));
    const fine = new GuidedFilter([guide], W, H, 2, 10).enlarged(
      picture((x) => (x > 30 ? 1 : 0)),
      [large],
    );
    const row = 40 * 2 * W;
    expect(fine[row + 60]).toBeLessThan(70);
    expect(fine[row + 61]).toBeGreaterThan(185);
    expect([fine[row + 40], fine[row + 80]]).toEqual([0, 255]);
  });
});

describe('a guide in colour', () => {
  const grey = picture(() => 90);
  const blue = picture((x) => (x < 30 ? 100 : 150));

  it('keeps edges that are of one brightness', () => {
    const values = picture((x) => (x < 30 ? 0 : 1));
    new GuidedFilter([grey, blue, grey], W, H, 4, 10).apply(values);
    expect([values[20 * W + 29] < 0.1, values[20 * W + 30] > 0.9]).toEqual([true, true]);
    const blurred = picture((x) => (x < 30 ? 0 : 1));
    new GuidedFilter([grey], W, H, 4, 10).apply(blurred);
    expect(blurred[20 * W + 29]).toBeGreaterThan(0.3);
  });

  it('is what brightness alone is where there is no colour', () => {
    const random = randomNumbers(5);
    const [values, alike] = [picture(() => random()), new Float32Array(W * H)];
    alike.set(values);
    new GuidedFilter([step, grey, grey], W, H, 3, 12).apply(values);
    new GuidedFilter([step], W, H, 3, 12).apply(alike);
    for (const [p, v] of values.entries()) expect(v).toBeCloseTo(alike[p], 4);
  });

  it('puts a rim on the edge of a coarser plane of colour', () => {
    const large = (of: (x: number) => number, size: number) =>
      planeOver(
        Uint8Array.from({ length: size * size * W * H }, (_, p) => of(p % (size * W))),
        size * W,
        size * H,
      );
    const filter = new GuidedFilter([grey, blue, grey], W, H, 2, 10);
    const planes = [large(() => 90, 2), large((x) => (x < 30 ? 100 : 150), 1), large(() => 90, 1)];
    const fine = filter.enlarged(
      picture((x) => (x < 30 ? 0 : 1)),
      planes,
    );
    const row = 40 * 2 * W;
    expect([fine[row + 59] < 40, fine[row + 60] > 215]).toEqual([true, true]);
  });
});

describe('a geodesic distance', () => {
  const ways = { climb: 2, level: 5 };
  const climbs = climbsOf([step], W, H, ways);
  const free = new Uint8Array(W * H);
  const none = new Float32Array(W * H);

  it('is the way round, where the picture is plain, and counts edges', () => {
    const far = geodesicDistance(climbs, [20 * W + 10], 1, free, none);
    expect(far[20 * W + 29]).toBeCloseTo(19, 3);
    expect(far[26 * W + 16]).toBeCloseTo(6 * Math.SQRT2, 3);
    expect(far[20 * W + 30]).toBeCloseTo(20 + 2 * 95, 3);
  });

  it('goes over an edge that is free, and nowhere without a seed', () => {
    const open = free.map((_, p) => (p % W === 30 ? 1 : 0));
    expect(geodesicDistance(climbs, [20 * W + 10], 1, open, none)[20 * W + 40]).toBeCloseTo(30, 3);
    expect(geodesicDistance(climbs, [], 1, free, none).every((d) => d === Infinity)).toBe(true);
  });

  it('is the same there as back, and counts the largest of the planes’ steps', () => {
    const random = randomNumbers(8);
    const rough = climbsOf([step, picture(() => 255 * random())], W, H, ways);
    const [a, b] = [5 * W + 7, 33 * W + 51];
    const there = geodesicDistance(rough, [a], 1, free, none)[b];
    expect(geodesicDistance(rough, [b], 1, free, none)[a]).toBeCloseTo(there, -1);
    expect(there).toBeGreaterThan(geodesicDistance(climbs, [a], 1, free, none)[b]);
  });
});
