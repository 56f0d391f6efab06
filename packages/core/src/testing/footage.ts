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

/** Side of a cell, in pixels. */
const CELL = 10;

/**
 * What of a repeating field may reach a place of it, in cells, each as plain numbers: those of one thing after the other,
 * its place first, told the short way round from the cell.
 *
 * @param things  x, y, and what else there is to know of each
 * @param reach   how far each is felt, in pixels
 */
export function nearby(
  things: readonly (readonly number[])[],
  field: number,
  reach: (thing: readonly number[]) => number,
): (u: number, v: number) => Float64Array {
  const n = Math.ceil(field / CELL);
  const lists: number[][] = Array.from({ length: n * n }, () => []);
  for (const thing of things) {
    const [x, y, ...rest] = thing;
    const far = reach(thing);
    // Seen from cells of the field, and from those beyond its rim, which are the field again.
    for (const atX of [x - field, x, x + field])
      for (const atY of [y - field, y, y + field]) {
        const [i0, i1] = [atX - far, atX + far].map((a) => Math.floor(a / CELL));
        const [j0, j1] = [atY - far, atY + far].map((a) => Math.floor(a / CELL));
        for (let j = Math.max(0, j0); j <= Math.min(n - 1, j1); j++)
          for (let i = Math.max(0, i0); i <= Math.min(n - 1, i1); i++)
            lists[j * n + i].push(atX, atY, ...rest);
      }
  }
  const cells = lists.map((list) => Float64Array.from(list));
  return (u, v) => cells[Math.min(n - 1, Math.floor(v / CELL)) * n + Math.min(n - 1, Math.floor(u / CELL))];
}

/** A blob adds less than a hundred-thousandth of a grey level beyond so many of its standard deviations, halved and squared. */
const FAINT = 16;
/** Of the cubic B-spline's inverse filter, and after how many samples it has forgotten where it began. */
const [POLE, FORGOTTEN] = [Math.sqrt(3) - 2, 32];

const made = new Map<string, Surface>();

/**
 * Soft blobs and corners of many sizes, dark and light, on a square field that repeats. It is the cubic B-spline through
 * their sum at whole pixels: as exactly known between them, and quicker than the sum.
 *
 * @param field  a whole number of pixels
 */
export function speckledSurface(seed: number, field = 400): Surface {
  const key = `${seed} ${field}`;
  const surface = made.get(key) ?? splineThrough(blobs(seed, field), field);
  made.set(key, surface);
  return surface;
}

function blobs(seed: number, field: number): Surface {
  const random = randomNumbers(seed);
  const all = Array.from({ length: Math.round(field * field * 0.006) }, () => {
    const [x, y, s] = [random() * field, random() * field, 2 + 5 * random()];
    return [x, y, 1 / (2 * s * s), 60 * (random() - 0.5) * 2];
  });
  const near = nearby(all, field, ([, , fall]) => Math.sqrt(FAINT / fall));
  return (u, v) => {
    const cell = near(u, v);
    let sum = 120;
    for (let k = 0; k < cell.length; k += 4) {
      const dx = u - cell[k];
      const dy = v - cell[k + 1];
      const far = (dx * dx + dy * dy) * cell[k + 2];
      if (far < FAINT) sum += cell[k + 3] * Math.exp(-far);
    }
    return sum;
  };
}

/** The cubic B-spline that goes through a field's values at whole pixels and repeats with it (Unser 1999, eq. 9 to 12). */
function splineThrough(values: Surface, n: number): Surface {
  const samples = new Float64Array(n * n);
  for (let y = 0; y < n; y++) for (let x = 0; x < n; x++) samples[y * n + x] = values(x, y);
  for (let k = 0; k < n; k++) {
    unfilter(samples, k * n, 1, n);
    unfilter(samples, k, n, n);
  }
  // A rim of one before and two after, so that what is near a place lies together.
  const side = n + 3;
  const table = new Float64Array(side * side);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) table[y * side + x] = samples[((y + n - 1) % n) * n + ((x + n - 1) % n)];
  return (x, y) => {
    const u = x - n * Math.floor(x / n);
    const v = y - n * Math.floor(y / n);
    const [i, j] = [Math.min(n - 1, Math.floor(u)), Math.min(n - 1, Math.floor(v))];
    const f = u - i;
    const g = v - j;
    const a = ((1 - f) * (1 - f) * (1 - f)) / 6;
    const d = (f * f * f) / 6;
    const c = 1 / 6 + 0.5 * f * (1 + f - f * f);
    const b = 1 - a - c - d;
    let at = j * side + i;
    const top = a * table[at] + b * table[at + 1] + c * table[at + 2] + d * table[at + 3];
    at += side;
    const upper = a * table[at] + b * table[at + 1] + c * table[at + 2] + d * table[at + 3];
    at += side;
    const lower = a * table[at] + b * table[at + 1] + c * table[at + 2] + d * table[at + 3];
    at += side;
    const bottom = a * table[at] + b * table[at + 1] + c * table[at + 2] + d * table[at + 3];
    const first = ((1 - g) * (1 - g) * (1 - g)) / 6;
    const last = (g * g * g) / 6;
    const third = 1 / 6 + 0.5 * g * (1 + g - g * g);
    return first * top + (1 - first - third - last) * upper + third * lower + last * bottom;
  };
}

/** Samples of a line that repeats become the coefficients of the spline through them, in place. */
function unfilter(line: Float64Array, from: number, step: number, n: number): void {
  let sum = 0;
  for (let k = n - FORGOTTEN; k < n; k++) sum = line[from + step * (((k % n) + n) % n)] + POLE * sum;
  for (let k = 0; k < n; k++) line[from + step * k] = sum = line[from + step * k] + POLE * sum;
  sum = 0;
  for (let k = FORGOTTEN - 1; k >= 0; k--) sum = POLE * (sum - line[from + step * (k % n)]);
  for (let k = n - 1; k >= 0; k--) {
    sum = POLE * (sum - line[from + step * k]);
    line[from + step * k] = 6 * sum;
  }
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
