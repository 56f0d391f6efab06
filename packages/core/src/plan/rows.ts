import { neededZoomThrough, type Size } from '../framing/framing.js';
import { apply, invert, type Matrix3 } from '../geometry/matrix.js';
import { meshOver, type MeshWarp } from '../geometry/warp.js';
import type { Rows } from '../solve/readout.js';
import type { Stage } from './goals.js';

/** Cells of the mesh that stands for rows put straight: many down, since every row lies otherwise. */
const COLUMNS = 8;
const CELLS_DOWN = 24;

/**
 * Pixels of some picture to a frame's own, as shot, where its rows are put straight.
 *
 * @param toStraight  to the frame's, had it been taken at once
 * @param size        of that picture
 */
export function meshThroughRows(rows: Rows, frame: number, toStraight: Matrix3, size: Size): MeshWarp {
  const [columns, down] = rows.facts.size.sideways ? [CELLS_DOWN, COLUMNS] : [COLUMNS, CELLS_DOWN];
  return meshOver(size.width, size.height, columns, down, (x, y) =>
    rows.asShot(frame, apply(toStraight, x, y)),
  );
}

/** The zoom that every frame would need: what is shown of it is bent. */
export function neededByRows(
  corrections: readonly Matrix3[],
  rows: Rows,
  { shift, size, window }: Pick<Stage, 'shift' | 'size' | 'window'>,
): Float64Array {
  return Float64Array.from(corrections, (s, f) =>
    neededZoomThrough(meshThroughRows(rows, f, invert(s), size), shift, size, window),
  );
}
