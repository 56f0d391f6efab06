/** Sweeps there and back: more of them change next to nothing where regions are no mazes. */
const ROUNDS = 2;
const DIAGONAL = Math.SQRT2;

/** How far it is from every sample to those before it, by the steps of a picture: the left, then the three of the row above. */
export interface Climbs {
  readonly width: number;
  readonly height: number;
  readonly to: readonly [Float32Array, Float32Array, Float32Array, Float32Array];
}

/**
 * The steps of a picture as ways: the largest of its planes' counts.
 *
 * @param planes  `width` samples a row each
 * @param climb   way that a grey level of difference is, beyond `level` of them
 */
export function climbsOf(
  planes: readonly Float32Array[],
  width: number,
  height: number,
  { climb, level }: { readonly climb: number; readonly level: number },
): Climbs {
  const towards = (dx: number, dy: number) => {
    const out = new Float32Array(width * height);
    for (let y = dy; y < height; y++) {
      for (let x = Math.max(0, dx); x < width + Math.min(0, dx); x++) {
        const p = y * width + x;
        const q = p - dy * width - dx;
        let most = level;
        for (const plane of planes) {
          const step = Math.abs(plane[p] - plane[q]);
          if (step > most) most = step;
        }
        out[p] = climb * (most - level);
      }
    }
    return out;
  };
  return { width, height, to: [towards(1, 0), towards(1, 1), towards(0, 1), towards(-1, 1)] };
}

/**
 * How far every sample of a picture is from the nearest seed where steps of it are ways too, by raster sweeps (Toivanen
 * 1996, "New geodesic distance transforms for gray-scale images").
 *
 * @param step    of the way from one sample to the next
 * @param isFree  1 where differences count for nothing
 * @param toll    way that each sample is besides
 *
 * Cost: some thirty operations a sample.
 */
export function geodesicDistance(
  { width, height, to: [beside, before, above, after] }: Climbs,
  seeds: Iterable<number>,
  step: number,
  isFree: Uint8Array,
  toll: Float32Array,
): Float32Array {
  const far = new Float32Array(width * height).fill(Infinity);
  for (const p of seeds) far[p] = 0;
  const slant = DIAGONAL * step;
  for (let round = 0; round < ROUNDS; round++) {
    for (let y = 0, p = 0; y < height; y++) {
      for (let x = 0; x < width; x++, p++) {
        const free = isFree[p];
        const here = toll[p];
        let least = far[p];
        let q = p - 1;
        let way = x > 0 ? far[q] + here + step + (free || isFree[q] ? 0 : beside[p]) : Infinity;
        if (way < least) least = way;
        if (y > 0) {
          q = p - width;
          way = far[q] + here + step + (free || isFree[q] ? 0 : above[p]);
          if (way < least) least = way;
          way = x > 0 ? far[q - 1] + here + slant + (free || isFree[q - 1] ? 0 : before[p]) : Infinity;
          if (way < least) least = way;
          way = x + 1 < width ? far[q + 1] + here + slant + (free || isFree[q + 1] ? 0 : after[p]) : Infinity;
          if (way < least) least = way;
        }
        far[p] = least;
      }
    }
    for (let y = height - 1, p = width * height - 1; y >= 0; y--) {
      for (let x = width - 1; x >= 0; x--, p--) {
        const free = isFree[p];
        const here = toll[p];
        let least = far[p];
        let q = p + 1;
        let way = x + 1 < width ? far[q] + here + step + (free || isFree[q] ? 0 : beside[q]) : Infinity;
        if (way < least) least = way;
        if (y + 1 < height) {
          q = p + width;
          way = far[q] + here + step + (free || isFree[q] ? 0 : above[q]);
          if (way < least) least = way;
          way =
            x + 1 < width
              ? far[q + 1] + here + slant + (free || isFree[q + 1] ? 0 : before[q + 1])
              : Infinity;
          if (way < least) least = way;
          way = x > 0 ? far[q - 1] + here + slant + (free || isFree[q - 1] ? 0 : after[q - 1]) : Infinity;
          if (way < least) least = way;
        }
        far[p] = least;
      }
    }
  }
  return far;
}
