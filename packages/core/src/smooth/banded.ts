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
      for (let k = from; k < j; k++) sum -= data[i * row + i - k] * data[j * row + j - k];
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
