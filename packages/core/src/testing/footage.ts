import { invert, type Matrix3 } from '../geometry/matrix.js';
import { randomNumbers } from '../numbers.js';
import { createPlane, type Plane } from '../picture/plane.js';

export { randomNumbers };

/** A normally distributed number, mean 0, deviation 1 (Box and Muller 1958). */
export function normal(random: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

/** A made-up surface whose brightness is known at every point, so that a picture of it has no sampling error. */
export type Surface = (x: number, y: number) => number;

const CELL = 25;

/** The things of a repeating field that may reach a place of it: those of its cell and the cells around. */
export function nearby<T extends { readonly x: number; readonly y: number }>(
  things: readonly T[],
  field: number,
): (u: number, v: number) => readonly T[] {
  const n = Math.ceil(field / CELL);
  const grid: T[][] = Array.from({ length: n * n }, () => []);
  for (const thing of things) {
    for (let j = -1; j <= 1; j++) {
      for (let i = -1; i <= 1; i++) {
        const gx = (Math.floor(thing.x / CELL) + i + n) % n;
        const gy = (Math.floor(thing.y / CELL) + j + n) % n;
        grid[gy * n + gx].push(thing);
      }
    }
  }
  return (u, v) => grid[Math.min(n - 1, Math.floor(v / CELL)) * n + Math.min(n - 1, Math.floor(u / CELL))];
}

/** Soft blobs and corners of many sizes, dark and light, on a square field that repeats. */
export function speckledSurface(seed: number, field = 400): Surface {
  const random = randomNumbers(seed);
  const blobs = Array.from({ length: Math.round(field * field * 0.006) }, () => ({
    x: random() * field,
    y: random() * field,
    s: 2 + 5 * random(),
    v: 60 * (random() - 0.5) * 2,
  }));
  const near = nearby(blobs, field);
  const wrap = (d: number) => d - field * Math.round(d / field);
  return (x, y) => {
    const u = ((x % field) + field) % field;
    const v = ((y % field) + field) % field;
    let sum = 120;
    for (const b of near(u, v)) {
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
  /** The motion at the end of the exposure: what is between is averaged into a motion blur. */
  readonly until?: Matrix3;
  /** Something in front: its brightness at a place of the picture, or null beside it. */
  readonly front?: (x: number, y: number) => number | null;
  /** Step of the quantiser of 8 x 8 cosine transforms, in grey levels: what a lossy codec does. */
  readonly quantiser?: number;
}

const EXPOSURES = 5;

/** A picture of a surface: surface coordinates -> picture by `motion`, taken at pixel centres. */
export function takePicture(
  surface: Surface,
  motion: Matrix3,
  width: number,
  height: number,
  { noise = 0, gain = 1, offset = 0, seed = 1, until, front, quantiser }: Spoiling = {},
): Plane {
  const moments = until ? Array.from({ length: EXPOSURES }, (_, k) => k / EXPOSURES) : [0];
  const backs = moments.map((t) =>
    invert(motion.map((v, k) => v + t * ((until ?? motion)[k] - v)) as unknown as Matrix3),
  );
  const random = randomNumbers(seed);
  const plane = createPlane(width, height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let value = front?.(x + 0.5, y + 0.5) ?? null;
      if (value === null) {
        value = 0;
        for (const b of backs) {
          const w = b[6] * (x + 0.5) + b[7] * (y + 0.5) + b[8];
          const u = b[0] * (x + 0.5) + b[1] * (y + 0.5) + b[2];
          const v = b[3] * (x + 0.5) + b[4] * (y + 0.5) + b[5];
          value += surface(u / w, v / w);
        }
        value /= backs.length;
      }
      value = gain * value + offset + (noise ? noise * normal(random) : 0);
      plane.data[y * width + x] = Math.min(255, Math.max(0, Math.round(value)));
    }
  }
  if (quantiser) quantise(plane, quantiser);
  return plane;
}

const COSINES = Float64Array.from({ length: 64 }, (_, i) => {
  const [k, n] = [i >> 3, i & 7];
  return (k === 0 ? Math.SQRT1_2 : 1) * 0.5 * Math.cos(((2 * n + 1) * k * Math.PI) / 16);
});

/** Rounds the cosine coefficients of 8 x 8 blocks, high frequencies coarser, as intra coding does. */
function quantise({ width, height, data }: Plane, step: number): void {
  const block = new Float64Array(64);
  const half = new Float64Array(64);
  for (let by = 0; by + 8 <= height; by += 8) {
    for (let bx = 0; bx + 8 <= width; bx += 8) {
      for (let j = 0; j < 8; j++)
        for (let i = 0; i < 8; i++) block[8 * j + i] = data[(by + j) * width + bx + i];
      transform(block, half, false);
      for (let k = 0; k < 64; k++) {
        const q = step * (1 + 0.3 * ((k & 7) + (k >> 3)));
        block[k] = Math.round(block[k] / q) * q;
      }
      transform(block, half, true);
      for (let j = 0; j < 8; j++) {
        for (let i = 0; i < 8; i++) {
          data[(by + j) * width + bx + i] = Math.min(255, Math.max(0, Math.round(block[8 * j + i])));
        }
      }
    }
  }
}

/** The 8 x 8 cosine transform or its inverse, in place. */
function transform(block: Float64Array, half: Float64Array, back: boolean): void {
  const c = (k: number, n: number) => COSINES[back ? 8 * n + k : 8 * k + n];
  for (let j = 0; j < 8; j++) {
    for (let k = 0; k < 8; k++) {
      let sum = 0;
      for (let n = 0; n < 8; n++) sum += c(k, n) * block[8 * j + n];
      half[8 * j + k] = sum;
    }
  }
  for (let i = 0; i < 8; i++) {
    for (let k = 0; k < 8; k++) {
      let sum = 0;
      for (let n = 0; n < 8; n++) sum += c(k, n) * half[8 * n + i];
      block[8 * k + i] = sum;
    }
  }
}
