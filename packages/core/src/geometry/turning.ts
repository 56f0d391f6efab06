import type { QuarterTurns } from '../picture/plane.js';
import { IDENTITY, type Matrix3 } from './matrix.js';

/** Coded coordinates to those of the upright picture of this size. */
export function codedToUpright(turns: QuarterTurns, width: number, height: number): Matrix3 {
  switch (turns) {
    case 0:
      return IDENTITY;
    case 1:
      return [0, -1, width, 1, 0, 0, 0, 0, 1];
    case 2:
      return [-1, 0, width, 0, -1, height, 0, 0, 1];
    case 3:
      return [0, 1, 0, -1, 0, height, 0, 0, 1];
  }
}
