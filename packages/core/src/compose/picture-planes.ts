import type { AnyPlane } from '../picture/plane.js';
import type { Subsampling } from '../picture/subsampling.js';

/** A picture in planes of one depth. */
export interface PicturePlanes {
  readonly y: AnyPlane;
  readonly u: AnyPlane;
  readonly v: AnyPlane;
  readonly subsampling: Subsampling;
  /** How much of each sample is covered; only of pictures that are written with it. */
  readonly alpha?: AnyPlane;
}
