import { randomNumbers } from '../testing/footage.js';
import { bandedMatrix, factorise, solveFactorised } from './banded.js';

describe('a banded system', () => {
  it('is solved: the matrix times the solution gives the right-hand side back', () => {
    const random = randomNumbers(3);
    for (const [size, band] of [
      [1, 0],
      [7, 2],
      [40, 5],
    ]) {
      const matrix = bandedMatrix(size, band);
      for (let i = 0; i < size; i++) {
        for (let k = 0; k <= Math.min(i, band); k++)
          matrix.data[i * (band + 1) + k] = k === 0 ? 2 * band + 1 + random() : random() - 0.5;
      }
      const full = (i: number, j: number) => {
        const [low, high] = [Math.min(i, j), Math.max(i, j)];
        return high - low > band ? 0 : matrix.data[high * (band + 1) + high - low];
      };
      const wanted = Array.from({ length: size }, () => random() - 0.5);
      const right = Float64Array.from(wanted, (_, i) =>
        wanted.reduce((sum, w, j) => sum + full(i, j) * w, 0),
      );
      factorise(matrix);
      solveFactorised(matrix, right);
      wanted.forEach((w, i) => expect(right[i]).toBeCloseTo(w, 10));
    }
  });
});
