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
  let matrix: Matrix3 | null = null;
  let least = Infinity;
  for (let i = 0; i < pairs.length; i++) {
    for (let j = 0; j < i; j++) {
      const candidate = fitSimilarity([pairs[i], pairs[j]]);
      if (!candidate) continue;
      const middle = median(residualsOf(candidate, pairs))!;
      if (middle < least) {
        least = middle;
        matrix = candidate;
      }
    }
  }
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

function residualsOf(matrix: Matrix3, pairs: readonly Correspondence[]): number[] {
  return pairs.map((p) => {
    const q = apply(matrix, p.fromX, p.fromY);
    return Math.hypot(q.x - p.toX, q.y - p.toY);
  });
}
