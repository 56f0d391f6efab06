import { kernelDoubles, type Banded } from '@lurn/kernels';

export { factorise, invertFactorised, type Banded } from '@lurn/kernels';

/** Zeros. @param fast  where the kernels reach it: for one that is made once and used again and again */
export function bandedMatrix(size: number, band: number, fast = false): Banded {
  const count = size * (band + 1);
  return { size, band, data: fast ? kernelDoubles(count).fill(0) : new Float64Array(count) };
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

/** An element of a symmetric banded matrix; 0 beyond the band. */
export function bandedAt({ band, data }: Banded, i: number, j: number): number {
  const [low, high] = i < j ? [i, j] : [j, i];
  return high - low > band ? 0 : data[high * (band + 1) + high - low];
}
