import { IDENTITY } from '../geometry/matrix.js';
import { measureNoise } from '../picture/noise.js';
import { createPlane, type Plane } from '../picture/plane.js';
import { Pyramid } from '../picture/pyramid.js';
import { takePicture } from '../testing/footage.js';
import { signedSurface } from '../testing/surfaces.js';
import { film, HEIGHT, pinned, rms, run, WIDTH } from '../testing/trial.js';
import { gradeOf, gripMap, readGrip, suggestSpots } from './grip.js';

const plane = (value: (x: number, y: number) => number): Plane => {
  const out = createPlane(WIDTH, HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) out.data[y * WIDTH + x] = value(x + 0.5, y + 0.5);
  return out;
};
const soft = (d: number) => 1 / (1 + Math.exp(-2 * d));
const read = (p: Plane, x: number, y: number, noise = 3) =>
  readGrip(new Pyramid(p, 4), { x, y }, [12, 12], [24, 20], noise);

describe('measuring noise', () => {
  it.each([2, 5, 10])('of %d grey levels, texture beside it or not', (noise) => {
    const signs = takePicture(signedSurface(3), IDENTITY, WIDTH, HEIGHT, { noise, seed: 5 });
    expect(measureNoise(signs)).toBeGreaterThan(0.8 * noise);
    expect(measureNoise(signs)).toBeLessThan(1.3 * noise);
  });
});

describe('grip', () => {
  it('is firm on a corner, slides along an edge, is none on a plain wall', () => {
    const corner = plane((x, y) => 60 + 140 * soft(x - 100) * soft(y - 80));
    expect(gradeOf(read(corner, 100, 80))).toBe('firm');
    const wall = plane(() => 120);
    expect(read(wall, 100, 80).error).toBe(Infinity);
    expect(gradeOf(read(wall, 100, 80))).toBe('none');
  });

  it.each([0, 30, 75, 120])('tells in which direction an edge at %d degrees will slide', (degrees) => {
    const angle = (degrees * Math.PI) / 180;
    const [nx, ny] = [-Math.sin(angle), Math.cos(angle)];
    const p = takePicture(
      (x, y) => 60 + 140 * soft((x - 100) * nx + (y - 80) * ny),
      IDENTITY,
      WIDTH,
      HEIGHT,
      {
        noise: 1,
      },
    );
    const { slides } = read(p, 100, 80, 1);
    expect(slides).not.toBeNull();
    // A direction has no sign: compare doubled angles.
    expect(Math.cos(2 * (slides! - angle))).toBeGreaterThan(0.99);
  });

  it('predicts the error that tracking then has, within a factor of three', async () => {
    const places = [
      [80, 70],
      [120, 100],
      [160, 80],
      [140, 120],
    ] as const;
    const still = new Array(14).fill(IDENTITY);
    const pictures = film(still, (i) => ({ noise: 6, seed: 50 + i }), signedSurface(9));
    const spots = places.map(([x, y], i) => pinned(String(i), x, y));
    const steps = await run(pictures, spots, 0, 13);
    const predicted = places.map(([x, y]) => read(pictures[0], x, y, 6).error);
    const measured = places.map(([x, y], i) =>
      rms(
        steps.flatMap((s) =>
          s.samples.filter((t) => t.id === String(i)).map((t) => Math.hypot(t.sample.x - x, t.sample.y - y)),
        ),
      ),
    );
    const ratio = Math.sqrt(measured.reduce((s, m, i) => s * (m / predicted[i]), 1) ** (2 / places.length));
    expect(ratio).toBeGreaterThan(1 / 3);
    expect(ratio).toBeLessThan(3);
  });

  it('warns of lookalikes within the reach, and not without one', () => {
    const pattern = plane((x, y) => 120 + 50 * Math.sin(x / 3) * Math.cos(y / 3.4));
    const { lookalike } = read(pattern, 100, 80);
    expect(lookalike!.score).toBeGreaterThan(0.9);
    expect(Math.hypot(lookalike!.x - 100, lookalike!.y - 80)).toBeGreaterThan(5);
    expect(read(takePicture(signedSurface(3), IDENTITY, WIDTH, HEIGHT), 100, 80).lookalike).toBeNull();
  });

  it('maps the picture as it reads single places', () => {
    const p = takePicture(signedSurface(3), IDENTITY, WIDTH, HEIGHT, { noise: 2 });
    const map = gripMap(p, [12, 12], 2, 10);
    expect(map.errors).toHaveLength(map.columns * map.rows);
    for (const k of [5 * map.columns + 8, 9 * map.columns + 14]) {
      const at = [((k % map.columns) + 0.5) * 10, (Math.floor(k / map.columns) + 0.5) * 10] as const;
      const ratio = map.errors[k] / read(p, at[0] + 0.5, at[1] + 0.5, 2).error;
      expect(Math.abs(Math.log(ratio))).toBeLessThan(0.5);
    }
    expect(map.errors[0]).toBe(Infinity);
  });
});

describe('suggesting spots', () => {
  const p = takePicture(signedSurface(6), IDENTITY, WIDTH, HEIGHT, { noise: 2 });
  const ask = (
    count: number,
    within: [number, number, number, number] | null = null,
    taken: { x: number; y: number }[] = [],
  ) => suggestSpots(new Pyramid(p, 4), { count, patch: [10, 10], reach: [16, 12], within, taken }, 2);

  it('gives features that hold, spread out and away from those that are there', () => {
    const taken = [{ x: 120, y: 90 }];
    const spots = ask(5, null, taken);
    expect(spots.length).toBeGreaterThanOrEqual(4);
    for (const s of spots) expect(gradeOf(s.grip)).toBe('firm');
    for (const [i, s] of spots.entries()) {
      for (const o of [...spots.slice(0, i), ...taken])
        expect(Math.hypot(s.x - o.x, s.y - o.y)).toBeGreaterThanOrEqual(20);
    }
  });

  it('keeps to a rectangle', () => {
    const spots = ask(3, [40, 40, 110, 120]);
    expect(spots.length).toBeGreaterThan(0);
    for (const s of spots) {
      expect(s.x >= 40 && s.x <= 110).toBe(true);
      expect(s.y >= 40 && s.y <= 120).toBe(true);
    }
  });

  it('gives a pair that is far apart', () => {
    const [a, b] = ask(2);
    expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThan(100);
  });

  it('gives nothing where nothing would hold', () => {
    const wall = new Pyramid(
      plane(() => 90),
      4,
    );
    expect(
      suggestSpots(wall, { count: 4, patch: [10, 10], reach: [16, 12], within: null, taken: [] }, 2),
    ).toEqual([]);
  });
});
