import type { Matrix3 } from './matrix.js';

/**
 * A grid of nodes over the unit square, and bilinear in between (Wolberg 1990, "Digital Image Warping", section 3.4.3);
 * beyond its rim the outermost cells go on.
 */
export interface MeshWarp {
  readonly kind: 'mesh';
  /** Cells across and down. */
  readonly columns: number;
  readonly rows: number;
  /** Where the nodes go, x and y of each, row by row: (columns + 1) x (rows + 1) of them. */
  readonly to: Float64Array;
  /** Places to those of the unit square. */
  readonly before: Matrix3;
}

/** The way back through a mesh, exactly: to the place that the mesh takes there, and on from it by a matrix. */
export interface UnbentWarp {
  readonly kind: 'unbent';
  readonly mesh: MeshWarp;
  /** Places to those that the mesh leads to. */
  readonly before: Matrix3;
  /** Affine. */
  readonly after: Matrix3;
}
