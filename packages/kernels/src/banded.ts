import { addressOf, kernels, SCRATCH } from './instance.js';

/**
 * A symmetric positive definite banded matrix, lower half by rows: element (i, i - k) is at `i * (band + 1) + k`.
 */
export interface Banded {
  readonly size: number;
  /** Diagonals below the main one. */
  readonly band: number;
  readonly data: Float64Array;
}

/**
 * Cholesky's factor L of a banded matrix, in place of it (Golub and Van Loan 2013, algorithm 4.3.5). A pivot that
 * rounding made too small is raised, which holds its unknown where it is.
 *
 * Cost: size x band squared; a fourth of that where the kernel reaches it.
 */
export function factorise(matrix: Banded): void {
  const all = kernels();
  const at = all ? addressOf(all, matrix.data) : -1;
  if (all && at >= 0) all.factorise(at, matrix.size, matrix.band);
  else factorisePlain(matrix);
}

/** {@link factorise} by plain TypeScript. */
export function factorisePlain({ size, band, data }: Banded): void {
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

/**
 * The inverse of a factorised matrix as far as the band reaches, in its place (Takahashi, Fagan and Chin 1973; Erisman
 * and Tinney 1975).
 *
 * Cost: size x band squared, and memory for both halves of the band.
 */
export function invertFactorised(matrix: Banded): void {
  const { size, band, data } = matrix;
  const all = kernels();
  const at = all ? addressOf(all, data) : -1;
  const below = 8 * size * (2 * band + 1);
  if (all && at >= 0 && below + 8 * (band + 1) <= SCRATCH)
    all.invertFactorised(at, size, band, all.scratch, all.scratch + below);
  else invertFactorisedPlain(matrix);
}

/** {@link invertFactorised} by plain TypeScript. */
export function invertFactorisedPlain({ size, band, data }: Banded): void {
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
