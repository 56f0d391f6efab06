/** Seeded randomness and value noise for the made-up scenery. */

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

/** A table of normally distributed numbers to draw film grain from (Box and Muller 1958). */
export function normalTable(seed: number, size: number): Float32Array {
  const random = randomNumbers(seed);
  return Float32Array.from(
    { length: size },
    () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random()),
  );
}

function hash(x: number, y: number, seed: number): number {
  let h = Math.imul(x, 374761393) ^ Math.imul(y, 668265263) ^ Math.imul(seed, 2147483647);
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

/** Smooth value noise in [0, 1] with features about one unit across. */
export function valueNoise(x: number, y: number, seed: number): number {
  const ix = Math.floor(x);
  const iy = Math.floor(y);
  const fx = x - ix;
  const fy = y - iy;
  const u = fx * fx * (3 - 2 * fx);
  const v = fy * fy * (3 - 2 * fy);
  const top = hash(ix, iy, seed) * (1 - u) + hash(ix + 1, iy, seed) * u;
  const bottom = hash(ix, iy + 1, seed) * (1 - u) + hash(ix + 1, iy + 1, seed) * u;
  return top * (1 - v) + bottom * v;
}

/** Several octaves of value noise, in [0, 1]; each octave twice as fine and `gain` times as strong. */
export function fractalNoise(x: number, y: number, seed: number, octaves = 5, gain = 0.5): number {
  let sum = 0;
  let weight = 0;
  let amplitude = 1;
  for (let o = 0; o < octaves; o++) {
    sum += amplitude * valueNoise(x * 2 ** o + 17.3 * o, y * 2 ** o - 9.1 * o, seed + o);
    weight += amplitude;
    amplitude *= gain;
  }
  return sum / weight;
}

export function mix(a: number, b: number, t: number): number {
  return a + (b - a) * t;
}

export function smoothstep(a: number, b: number, x: number): number {
  const t = Math.min(1, Math.max(0, (x - a) / (b - a)));
  return t * t * (3 - 2 * t);
}
