/** A 3x3 matrix, row-major: x' = (a x + b y + c) / (g x + h y + i), y' = (d x + e y + f) / (g x + h y + i). */
export type Matrix3 = readonly [number, number, number, number, number, number, number, number, number];

export interface Point {
  readonly x: number;
  readonly y: number;
}

export const IDENTITY: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** The product a b: first b is applied, then a. */
export function multiply(a: Matrix3, b: Matrix3): Matrix3 {
  return [
    a[0] * b[0] + a[1] * b[3] + a[2] * b[6],
    a[0] * b[1] + a[1] * b[4] + a[2] * b[7],
    a[0] * b[2] + a[1] * b[5] + a[2] * b[8],
    a[3] * b[0] + a[4] * b[3] + a[5] * b[6],
    a[3] * b[1] + a[4] * b[4] + a[5] * b[7],
    a[3] * b[2] + a[4] * b[5] + a[5] * b[8],
    a[6] * b[0] + a[7] * b[3] + a[8] * b[6],
    a[6] * b[1] + a[7] * b[4] + a[8] * b[7],
    a[6] * b[2] + a[7] * b[5] + a[8] * b[8],
  ];
}

/** Several matrices multiplied, the last applied first. */
export function chain(...matrices: Matrix3[]): Matrix3 {
  return matrices.reduce(multiply, IDENTITY);
}

/** The inverse, scaled so that its last element is 1 where it can be. Throws RangeError when singular. */
export function invert(m: Matrix3): Matrix3 {
  // By index: an array that is taken apart costs ten times as much until it is optimised.
  const a = m[0];
  const b = m[1];
  const c = m[2];
  const d = m[3];
  const e = m[4];
  const f = m[5];
  const g = m[6];
  const h = m[7];
  const i = m[8];
  const A = e * i - f * h;
  const B = f * g - d * i;
  const C = d * h - e * g;
  const det = a * A + b * B + c * C;
  if (!Number.isFinite(det) || Math.abs(det) < 1e-300) throw new RangeError('The matrix has no inverse.');
  const s = 1 / det;
  return [
    A * s,
    (c * h - b * i) * s,
    (b * f - c * e) * s,
    B * s,
    (a * i - c * g) * s,
    (c * d - a * f) * s,
    C * s,
    (b * g - a * h) * s,
    (a * e - b * d) * s,
  ];
}

/** Where the matrix takes a point. */
export function apply(m: Matrix3, x: number, y: number): Point {
  const w = m[6] * x + m[7] * y + m[8];
  return { x: (m[0] * x + m[1] * y + m[2]) / w, y: (m[3] * x + m[4] * y + m[5]) / w };
}

export function translation(x: number, y: number): Matrix3 {
  return [1, 0, x, 0, 1, y, 0, 0, 1];
}

export function scaling(x: number, y = x): Matrix3 {
  return [x, 0, 0, 0, y, 0, 0, 0, 1];
}

/** True when the bottom row is that of an affine map. */
export function isAffine(m: Matrix3): boolean {
  return m[6] === 0 && m[7] === 0;
}

/** Square root of the area that the affine part magnifies by: the scale of a similarity. */
export function areaScale(m: Matrix3): number {
  return Math.sqrt(Math.abs(m[0] * m[4] - m[1] * m[3])) / Math.abs(m[8]);
}
