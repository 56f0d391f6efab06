/**
 * A symmetric positive definite banded matrix, lower half by rows: element (i, i - k) is at `i * (band + 1) + k`.
 */
export interface Banded {
  readonly size: number;
  /** Diagonals below the main one. */
  readonly band: number;
  readonly data: Float64Array;
}

export function bandedMatrix(size: number, band: number): Banded {
  return { size, band, data: new Float64Array(size * (band + 1)) };
}

/**
 * Cholesky's factor L of a banded matrix, in place of it (Golub and Van Loan 2013, algorithm 4.3.5). A pivot that
 * rounding made too small is raised, which holds its unknown where it is.
 *
 * Cost: size x band squared.
 */
export function factorise({ size, band, data }: Banded): void {
  const row = band + 1;
  for (let i = 0; i < size; i++) {
    const first = Math.max(0, i - band);
    for (let j = first; j <= i; j++) {
      let sum = data[i * row + i - j];
      const from = Math.max(first, j - band);
      for (let k = j - from, a = i * row + i - from, b = j * row + k; k > 0; k--, a--, b--)
        sum -= data[a] * data[b];
      if (j < i) data[i * row + i - j] = sum / data[j * row];
      else data[i * row] = Math.sqrt(sum > 1e-14 ? sum : 1e14);
    }
  }
}

/** Solves L L' x = b for a factorised matrix; b becomes x. Cost: size x band. */
export function solveFactorised({ size, band, data }: Banded, b: Float64Array): void {
  const row = band + 1;
  for (let i = 0; i < size; i++) {
    let sum = b[i];
    for (let k = Math.max(0, i - band); k < i; k++) sum -= data[i * row + i - k] * b[k];
    b[i] = sum / data[i * row];
  }
  for (let i = size - 1; i >= 0; i--) {
    let sum = b[i];
    const end = Math.min(size - 1, i + band);
    for (let k = i + 1; k <= end; k++) sum -= data[k * row + k - i] * b[k];
    b[i] = sum / data[i * row];
  }
}

/**
 * The inverse of a factorised matrix as far as the band reaches, in its place (Takahashi, Fagan and Chin 1973; Erisman
 * and Tinney 1975).
 *
 * Cost: size x band squared, and memory for both halves of the band.
 */
export function invertFactorised({ size, band, data }: Banded): void {
  const row = band + 1;
  // Both halves, so that sums run along rows: element (i, k) of the inverse is at i * wide + k - i + band.
  const wide = 2 * band + 1;
  const whole = new Float64Array(size * wide);
  const below = new Float64Array(band + 1);
  for (let j = size - 1; j >= 0; j--) {
    const end = Math.min(size - 1, j + band);
    const pivot = data[j * row];
    const n = end - j;
    for (let k = 1; k <= n; k++) below[k] = data[(j + k) * row + k] / pivot;
    for (let i = end; i >= j; i--) {
      let sum = i === j ? 1 / (pivot * pivot) : 0;
      for (let k = 1, at = i * wide + j + 1 - i + band; k <= n; k++, at++) sum -= below[k] * whole[at];
      whole[i * wide + j - i + band] = sum;
      whole[j * wide + i - j + band] = sum;
    }
  }
  for (let i = 0; i < size; i++)
    for (let k = 0; k <= Math.min(i, band); k++) data[i * row + k] = whole[i * wide + band - k];
}

/** An element of a symmetric banded matrix; 0 beyond the band. */
export function bandedAt({ band, data }: Banded, i: number, j: number): number {
  const [low, high] = i < j ? [i, j] : [j, i];
  return high - low > band ? 0 : data[high * (band + 1) + high - low];
}
