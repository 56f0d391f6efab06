import { apply, invert, type Matrix3 } from '../geometry/matrix.js';
import { createPlane, type Plane } from '../picture/plane.js';

/** A seeded generator of numbers in [0, 1) (mulberry32). */
export function randomNumbers(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = a;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A normally distributed number, mean 0, deviation 1 (Box and Muller 1958). */
export function normal(random: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

/** A made-up surface whose brightness is known at every point, so that a picture of it has no sampling error. */
export type Surface = (x: number, y: number) => number;

/** Soft blobs and corners of many sizes, dark and light, on a square field that repeats. */
export function speckledSurface(seed: number, field = 400): Surface {
  const random = randomNumbers(seed);
  const blobs = Array.from({ length: Math.round(field * field * 0.006) }, () => ({
    x: random() * field,
    y: random() * field,
    s: 2 + 5 * random(),
    v: 60 * (random() - 0.5) * 2,
  }));
  const cell = 25;
  const n = Math.ceil(field / cell);
  const grid: (typeof blobs)[] = Array.from({ length: n * n }, () => []);
  for (const b of blobs) {
    for (let j = -1; j <= 1; j++) {
      for (let i = -1; i <= 1; i++) {
        const gx = (Math.floor(b.x / cell) + i + n) % n;
        const gy = (Math.floor(b.y / cell) + j + n) % n;
        grid[gy * n + gx].push(b);
      }
    }
  }
  const wrap = (d: number) => d - field * Math.round(d / field);
  return (x, y) => {
    const u = ((x % field) + field) % field;
    const v = ((y % field) + field) % field;
    let sum = 120;
    for (const b of grid[Math.min(n - 1, Math.floor(v / cell)) * n + Math.min(n - 1, Math.floor(u / cell))]) {
      const dx = wrap(u - b.x);
      const dy = wrap(v - b.y);
      sum += b.v * Math.exp(-(dx * dx + dy * dy) / (2 * b.s * b.s));
    }
    return sum;
  };
}

export interface Spoiling {
  /** Standard deviation of the noise, in grey levels. */
  readonly noise?: number;
  readonly gain?: number;
  readonly offset?: number;
  readonly seed?: number;
}

/** A picture of a surface: surface coordinates -> picture by `motion`, taken at pixel centres. */
export function takePicture(
  surface: Surface,
  motion: Matrix3,
  width: number,
  height: number,
  { noise = 0, gain = 1, offset = 0, seed = 1 }: Spoiling = {},
): Plane {
  const back = invert(motion);
  const random = randomNumbers(seed);
  const plane = createPlane(width, height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const p = apply(back, x + 0.5, y + 0.5);
      const value = gain * surface(p.x, p.y) + offset + (noise ? noise * normal(random) : 0);
      plane.data[y * width + x] = Math.min(255, Math.max(0, Math.round(value)));
    }
  }
  return plane;
}
