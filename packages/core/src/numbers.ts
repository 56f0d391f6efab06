/**
 * The largest share of the way from `low` to `high` for which something still holds, by bisection: it holds at `low`,
 * and once it has ceased to hold it does not hold again.
 *
 * @returns a place at which it holds, within (high - low) / 2^rounds of where it ceases to
 */
export function lastThatHolds(
  low: number,
  high: number,
  holds: (at: number) => boolean,
  rounds = 40,
): number {
  let [yes, no] = [low, high];
  for (let round = 0; round < rounds; round++) {
    const middle = (yes + no) / 2;
    if (holds(middle)) yes = middle;
    else no = middle;
  }
  return yes;
}

/** The median of numbers that are in order; NaN of none. Of unordered ones it is d3-array's. */
export function medianSorted(sorted: Float64Array): number {
  const n = sorted.length;
  return n > 0 ? (sorted[(n - 1) >> 1] + sorted[n >> 1]) / 2 : NaN;
}

/** The length of (x, y): `Math.hypot` guards against overflow, and takes many times as long. */
export function length(x: number, y: number): number {
  return Math.sqrt(x * x + y * y);
}

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
