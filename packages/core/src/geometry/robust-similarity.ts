import { median } from 'd3-array';
import { apply, type Matrix3 } from './matrix.js';
import { fitSimilarity, type Correspondence } from './similarity.js';

/**
 * A similarity that outliers do not touch: the pair of correspondences with the least median residual (least
 * median of squares, Rousseeuw 1984; every pair is tried, so nothing is left to chance), then iteratively
 * reweighted least squares with Tukey's biweight (Holland and Welsch 1977).
 *
 * @returns null for fewer than three correspondences. Cost: pairs cubed; meant for a few dozen.
 */
export function robustSimilarity(pairs: readonly Correspondence[]): Matrix3 | null {
  if (pairs.length < 3) return null;
  const { matrix: first, least } = throughTwo(pairs);
  let matrix = first;
  for (let round = 0; matrix && round < 12; round++) {
    const residuals = residualsOf(matrix, pairs);
    const cut = Math.max(0.25, 4.685 * 1.4826 * Math.min(least, median(residuals)!));
    const weighted = pairs.map((p, i) => {
      const u = Math.min(1, residuals[i] / cut);
      return { ...p, weight: p.weight * (1 - u * u) ** 2 };
    });
    matrix = fitSimilarity(weighted) ?? matrix;
  }
  return matrix;
}

/** The similarity through two of the pairs that leaves the least median residual of all. */
function throughTwo(pairs: readonly Correspondence[]): { matrix: Matrix3 | null; least: number } {
  const n = pairs.length;
  const columns = (['fromX', 'fromY', 'toX', 'toY'] as const).map((key) =>
    Float64Array.from(pairs, (p) => p[key]),
  );
  const [fromX, fromY, toX, toY] = columns;
  const residuals = new Float64Array(n);
  let matrix: Matrix3 | null = null;
  let least = Infinity;
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < i; j++) {
      const [dx, dy] = [fromX[j] - fromX[i], fromY[j] - fromY[i]];
      const [ex, ey] = [toX[j] - toX[i], toY[j] - toY[i]];
      const square = dx * dx + dy * dy;
      if (!(square > 1e-12)) continue;
      const a = (dx * ex + dy * ey) / square;
      const b = (dx * ey - dy * ex) / square;
      if (!(a * a + b * b > 0)) continue;
      const x = toX[i] - a * fromX[i] + b * fromY[i];
      const y = toY[i] - b * fromX[i] - a * fromY[i];
      let nearer = 0;
      for (let k = 0; k < n; k++) {
        const rx = a * fromX[k] - b * fromY[k] + x - toX[k];
        const ry = b * fromX[k] + a * fromY[k] + y - toY[k];
        residuals[k] = Math.sqrt(rx * rx + ry * ry);
        if (residuals[k] < least) nearer++;
      }
      // The median is below the least so far only if half of them are.
      if (nearer < n >> 1) continue;
      const middle = median(residuals)!;
      if (middle < least) {
        least = middle;
        matrix = [a, -b, x, b, a, y, 0, 0, 1];
      }
    }
  }
  return { matrix, least };
}

function residualsOf(matrix: Matrix3, pairs: readonly Correspondence[]): number[] {
  return pairs.map((p) => {
    const q = apply(matrix, p.fromX, p.fromY);
    return Math.hypot(q.x - p.toX, q.y - p.toY);
  });
}
