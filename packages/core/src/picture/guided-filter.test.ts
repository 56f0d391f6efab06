import { randomNumbers } from '../numbers.js';
import { GuidedFilter } from './guided-filter.js';
import { geodesicDistance } from './geodesic.js';
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
    new GuidedFilter(step, W, H, 4, 10).apply(values);
    for (let y = 8; y < H - 8; y++) {
      expect(values[y * W + 29]).toBeLessThan(0.12);
      expect(values[y * W + 30]).toBeGreaterThan(0.88);
    }
    const flat = new Float32Array(W * H).fill(0.7);
    new GuidedFilter(step, W, H, 4, 10).apply(flat);
    for (const v of flat) expect(v).toBeCloseTo(0.7, 4);
  });

  it('is a mean over windows twice where the picture has no edge', () => {
    const values = picture((x, y) => (x === 20 && y === 20 ? 1 : 0));
    new GuidedFilter(
      picture(() => 90),
      W,
      H,
      2,
      10,
    ).apply(values);
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
    const fine = new GuidedFilter(guide, W, H, 2, 10).enlarged(
      picture((x) => (x > 30 ? 1 : 0)),
      large,
    );
    const row = 40 * 2 * W;
    expect(fine[row + 60]).toBeLessThan(70);
    expect(fine[row + 61]).toBeGreaterThan(185);
    expect([fine[row + 40], fine[row + 80]]).toEqual([0, 255]);
  });
});

describe('a geodesic distance', () => {
  const ways = { step: 1, climb: 2, level: 5 };
  const free = new Uint8Array(W * H);
  const none = new Float32Array(W * H);

  it('is the way round, where the picture is plain, and counts edges', () => {
    const far = geodesicDistance({ width: W, height: H, data: step }, [20 * W + 10], ways, free, none);
    expect(far[20 * W + 29]).toBeCloseTo(19, 3);
    expect(far[26 * W + 16]).toBeCloseTo(6 * Math.SQRT2, 3);
    expect(far[20 * W + 30]).toBeCloseTo(20 + 2 * 95, 3);
  });

  it('goes over an edge that is free, and nowhere without a seed', () => {
    const open = free.map((_, p) => (p % W === 30 ? 1 : 0));
    const picture = { width: W, height: H, data: step };
    expect(geodesicDistance(picture, [20 * W + 10], ways, open, none)[20 * W + 40]).toBeCloseTo(30, 3);
    expect(geodesicDistance(picture, [], ways, free, none).every((d) => d === Infinity)).toBe(true);
  });
});
