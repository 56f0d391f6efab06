import { apply, chain, invert, type Matrix3 } from '../../geometry/matrix.js';
import { composeSimilarity, decomposeSimilarity } from '../../geometry/similarity.js';
import { coordinatesFor, sizeFor, type DataChoices } from './choices.js';
import type { DataClip } from './moving-data.js';

/** What a matrix is told by instead of its cells: where it takes the picture's middle to, from there; its turn and size. */
export const MATRIX_PARTS = ['x', 'y', 'rotation', 'scale'] as const;

const DEGREES = 180 / Math.PI;

/** What a matrix is told by in the coordinates that were chosen. */
export class MatrixParts {
  /** From pixels, counted as was chosen, to what was chosen. */
  private readonly fromPixels: Matrix3;
  private readonly middle: { readonly x: number; readonly y: number };
  private readonly unit: readonly [number, number];
  private readonly full: number;

  /** @throws LurnError `no-size` where the picture's size is not known */
  constructor(choices: DataChoices, clip: DataClip) {
    const { width, height } = sizeFor(clip, 'Position, rotation and scale about the middle of the picture');
    const inPixels = coordinatesFor({ ...choices, unit: 'px' }, clip);
    this.fromPixels = chain(coordinatesFor(choices, clip), invert(inPixels));
    this.middle = apply(inPixels, width / 2, height / 2);
    this.unit = choices.unit === 'px' ? [1, 1] : [width, height];
    this.full = choices.numbers === 'percent' ? 100 : 1;
  }

  /** Position, rotation in degrees from x towards y, and scale; of a matrix in perspective what it does at the middle. */
  of(m: Matrix3): number[] {
    const { x, y } = this.middle;
    const p = chain(invert(this.fromPixels), m, this.fromPixels);
    const at = apply(p, x, y);
    const w = p[6] * x + p[7] * y + p[8];
    const slope = (k: number, which: 'x' | 'y', to: number) => (p[k] - p[6 + (which === 'x' ? 0 : 1)] * to) / w;
    const near: Matrix3 = [
      ...[slope(0, 'x', at.x), slope(1, 'y', at.x), 0],
      ...[slope(3, 'x', at.y), slope(4, 'y', at.y), 0],
      ...[0, 0, 1],
    ] as unknown as Matrix3;
    const { rotation, logScale } = decomposeSimilarity(near, { x: 0, y: 0 });
    return [
      (at.x - x) / this.unit[0],
      (at.y - y) / this.unit[1],
      rotation * DEGREES,
      Math.exp(logScale) * this.full,
    ];
  }

  /** The matrix, in the coordinates that were chosen. */
  toMatrix([x, y, rotation, scale]: readonly number[]): Matrix3 {
    const parts = {
      ...{ x: x * this.unit[0], y: y * this.unit[1] },
      ...{ rotation: rotation / DEGREES, logScale: Math.log(scale / this.full) },
    };
    return chain(this.fromPixels, composeSimilarity(parts, this.middle), invert(this.fromPixels));
  }
}
