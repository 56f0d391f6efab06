import { Matrix, solve, SingularValueDecomposition } from 'ml-matrix';
import type { Matrix3, Point } from '../geometry/matrix.js';
import type { LevelFit } from './level-fit.js';
import { PARAMETERS } from './surface-template.js';
import { jacobianAt, placeAt } from './unit-motion.js';

/** What a surface may do between two frames. */
export type SurfaceAllow = 'shift' | 'similarity' | 'sheared' | 'affine' | 'perspective';

/**
 * What each motion is made of, over the eight numbers of a homography near no motion, [[1 + a, b, c], [d, 1 + e, f],
 * [g, h, 1]]: shift, turn and growth, shear, a growth of its own across, perspective.
 */
const DIRECTIONS = [
  [0, 0, 1, 0, 0, 0, 0, 0],
  [0, 0, 0, 0, 0, 1, 0, 0],
  [0, -1, 0, 1, 0, 0, 0, 0],
  [1, 0, 0, 0, 1, 0, 0, 0],
  [0, 1, 0, 1, 0, 0, 0, 0],
  [1, 0, 0, 0, -1, 0, 0, 0],
  [0, 0, 0, 0, 0, 0, 1, 0],
  [0, 0, 0, 0, 0, 0, 0, 1],
];
/** How many of the directions each is made of. */
const COUNT: Readonly<Record<SurfaceAllow, number>> = {
  shift: 2,
  similarity: 4,
  sheared: 5,
  affine: 6,
  perspective: 8,
};

/** True of what a coarse picture cannot tell. */
export const isRich = (allow: SurfaceAllow): boolean => COUNT[allow] > COUNT.similarity;

/** The step that the blocks agree on; null when they do not determine it. */
export function stepOf(fit: LevelFit, allow: SurfaceAllow): Float64Array | null {
  const free = COUNT[allow];
  const { normal, right } = equations(fit);
  const directions = new Matrix(DIRECTIONS.slice(0, free));
  const a = directions.mmul(normal).mmul(directions.transpose());
  const trace = a.trace();
  if (!(trace > 0)) return null;
  for (let i = 0; i < free; i++) a.set(i, i, a.get(i, i) * (1 + 1e-6) + 1e-9 * trace);
  const z = solve(a, directions.mmul(Matrix.columnVector([...right])));
  const step = directions.transpose().mmul(z).to1DArray();
  return step.every(Number.isFinite) ? Float64Array.from(step) : null;
}

/** The normal equations of all blocks by their say. */
function equations({ own, weight, gain, right: sides, light, count: blocks }: LevelFit): {
  normal: Matrix;
  right: Float64Array;
} {
  const m = PARAMETERS;
  const sum = new Float64Array(m * m);
  const right = new Float64Array(m);
  for (let b = 0; b < blocks; b++) {
    const w = weight[b];
    if (w === 0) continue;
    const g = gain[b];
    const { normal, byOne, byValue, count, contrast } = own.blocks[b];
    const one = 1 / (count + light.offsetHold[b]);
    const value = 1 / (contrast + light.gainHold[b]);
    // What offset and gain can explain is taken out, as far as they are free (project-out; Baker et al. 2003, part 3).
    const say = w * g * g;
    for (let i = 0; i < m; i++) {
      const first = say * one * byOne[i];
      const second = say * value * byValue[i];
      for (let j = i, k = i * m + i; j < m; j++, k++)
        sum[k] += say * normal[k] - first * byOne[j] - second * byValue[j];
    }
    for (let k = 0; k < m; k++) right[k] += w * g * sides[b * m + k];
  }
  for (let i = 0; i < m; i++) for (let j = 0; j < i; j++) sum[i * m + j] = sum[j * m + i];
  return { normal: Matrix.from1DArray(m, m, sum), right };
}

/** How far a block would go by itself, in units. */
export function ownShift({ own, right, gain }: LevelFit, b: number): number {
  const { normal, byOne, count } = own.blocks[b];
  const m = PARAMETERS;
  const [x, y] = [2, 5];
  const of = (i: number, j: number) => normal[i * m + j] - (byOne[i] * byOne[j]) / count;
  const [xx, xy, yy] = [of(x, x), of(x, y), of(y, y)];
  const det = xx * yy - xy * xy;
  if (!(det > 1e-6 * (xx + yy) ** 2)) return 0;
  const [p, q] = [right[b * m + x], right[b * m + y]];
  return Math.hypot((yy * p - xy * q) / det, (xx * q - xy * p) / det) / Math.max(0.1, gain[b]);
}

/**
 * Standard deviation of the worst corner, from how much the blocks disagree: whatever makes them - noise, what is
 * left of an occlusion, a surface that is not quite flat - is in it (the sandwich estimator over clusters; White
 * 1980, Liang and Zeger 1986).
 */
export function cornerError(
  fit: LevelFit,
  motion: Matrix3,
  toUnit: Matrix3,
  allow: SurfaceAllow,
  corners: readonly Point[],
): number {
  const m = PARAMETERS;
  const free = COUNT[allow];
  const { normal } = equations(fit);
  const directions = new Matrix(DIRECTIONS.slice(0, free));
  const a = directions.mmul(normal).mmul(directions.transpose());
  const meat = Matrix.zeros(free, free);
  let voices = 0;
  for (let b = 0; b < fit.count; b++) {
    const say = fit.weight[b] * fit.gain[b];
    if (say === 0) continue;
    voices += fit.weight[b];
    const own = directions.mmul(Matrix.columnVector([...fit.right.subarray(b * m, b * m + m)])).mul(say);
    meat.add(own.mmul(own.transpose()));
  }
  if (voices <= free / 2 + 1) return Infinity;
  const back = inverseOf(a);
  if (!back) return Infinity;
  const spread = back
    .mmul(meat)
    .mmul(back)
    .mul(voices / (voices - free / 2));
  let worst = 0;
  for (const corner of corners) {
    const { x, y } = placeAt(toUnit, corner.x, corner.y);
    const moved = new Matrix([
      [x, y, 1, 0, 0, 0, -x * x, -x * y],
      [0, 0, 0, x, y, 1, -x * y, -y * y],
    ]).mmul(directions.transpose());
    const local = jacobianAt(motion, x, y).mmul(moved);
    const c = local.mmul(spread).mmul(local.transpose());
    const [p, q, r] = [c.get(0, 0), c.get(0, 1), c.get(1, 1)];
    worst = Math.max(worst, (p + r) / 2 + Math.hypot((p - r) / 2, q));
  }
  return Math.sqrt(worst);
}

function inverseOf(a: Matrix): Matrix | null {
  const svd = new SingularValueDecomposition(a);
  return svd.condition < 1e14 ? svd.inverse() : null;
}
