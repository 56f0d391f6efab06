/** Banded matrices: see src/banded.ts for what is computed and how they lie. */

import { sumOfTwo } from './lanes';

/** Sum of the products of `n` doubles from `a` and from `b` on. */
@inline
function dot(a: usize, b: usize, n: i32): f64 {
  let s0 = f64x2.splat(0);
  let s1 = f64x2.splat(0);
  let k = 0;
  for (; k + 4 <= n; k += 4) {
    s0 = f64x2.add(s0, f64x2.mul(v128.load(a), v128.load(b)));
    s1 = f64x2.add(s1, f64x2.mul(v128.load(a, 16), v128.load(b, 16)));
    a += 32;
    b += 32;
  }
  let sum = sumOfTwo(f64x2.add(s0, s1));
  for (; k < n; k++) {
    sum += load<f64>(a) * load<f64>(b);
    a += 8;
    b += 8;
  }
  return sum;
}

export function factorise(data: usize, size: i32, band: i32): void {
  const row = band + 1;
  for (let i = 0; i < size; i++) {
    const first = max(0, i - band);
    const own = data + ((i * row) << 3);
    for (let j = first; j <= i; j++) {
      const from = max(first, j - band);
      const other = data + ((j * row) << 3);
      const at = own + ((i - j) << 3);
      // Rows lie from the diagonal outwards: what is left of column j begins one beyond it, in both.
      const sum = load<f64>(at) - dot(at + 8, other + 8, j - from);
      if (j < i) store<f64>(at, sum / load<f64>(other));
      else store<f64>(own, sqrt(sum > 1e-14 ? sum : 1e14));
    }
  }
}

/**
 * @param whole  room for size x (2 band + 1) doubles
 * @param below  room for band + 1 doubles
 */
export function invertFactorised(data: usize, size: i32, band: i32, whole: usize, below: usize): void {
  const row = band + 1;
  const wide = 2 * band + 1;
  for (let j = size - 1; j >= 0; j--) {
    const end = min(size - 1, j + band);
    const pivot = load<f64>(data + ((j * row) << 3));
    const n = end - j;
    for (let k = 1; k <= n; k++)
      store<f64>(below + (k << 3), load<f64>(data + (((j + k) * row + k) << 3)) / pivot);
    for (let i = end; i >= j; i--) {
      const start = i === j ? 1 / (pivot * pivot) : 0;
      const sum = start - dot(below + 8, whole + ((i * wide + j + 1 - i + band) << 3), n);
      store<f64>(whole + ((i * wide + j - i + band) << 3), sum);
      store<f64>(whole + ((j * wide + i - j + band) << 3), sum);
    }
  }
  for (let i = 0; i < size; i++)
    for (let k = 0; k <= min(i, band); k++)
      store<f64>(data + ((i * row + k) << 3), load<f64>(whole + ((i * wide + band - k) << 3)));
}
