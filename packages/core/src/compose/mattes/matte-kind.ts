import type { Matrix3 } from '../../geometry/matrix.js';
import type { Warp } from '../../geometry/warp.js';
import type { PlaneCoding } from '../../picture/colour.js';
import type { ChromaSiting } from '../../picture/subsampling.js';
import type { Box, LayerGrid, RowOfColours } from '../layer-grid.js';
import type { PicturePlanes } from '../picture-planes.js';
import type { Raster } from '../raster.js';
import type { Riding, Seen } from '../seen.js';

/** Fills a row with the shares that a matte lets through, 0 to 1. @param colours  of the picture; null where none are read */
export type Ask = (row: number, colours: RowOfColours | null, out: Float64Array) => void;

/** Part of a grid of samples for which a matte is asked, and what there is to look at. */
export interface MatteGround {
  readonly grid: LayerGrid;
  readonly box: Box;
  readonly coding: PlaneCoding;
  readonly siting: ChromaSiting;
  /** Quickly rather than exactly. */
  readonly draft: boolean;
  /** The picture without any layer. */
  readonly below: PicturePlanes;
  /** Other frames' pictures. */
  readonly pictures: (frame: number) => PicturePlanes;
  /** Rasters by their keys; null for one that is not there. */
  readonly rasters: (key: string) => Raster | null;
}

/** One kind of matte: as a document has it, and as it is seen on a frame. A new one is a file with such a record, entered in `matte.ts`. */
export interface MatteKind<Look, Shown> {
  /** True where colours of the picture have to be read. */
  readonly keyed?: true;
  /** As it is seen on a frame; null where it is not. @param on  what is limited by it */
  shown(matte: Look, on: Riding, seen: Seen): Shown | null;
  /**
   * The same on other samples.
   *
   * @param first  samples to pixels of the scene
   * @param both   a warp to source pixels as one from samples to those of the pictures at hand
   */
  through(matte: Shown, first: Matrix3, both: (warp: Warp) => Warp): Shown;
  /** The other frame whose picture it looks at. */
  frame?(matte: Shown): number;
  /** The key of the raster that it looks at. */
  raster?(matte: Shown): string;
  /** How a row of it is asked for. */
  ask(matte: Shown, ground: MatteGround): Ask;
}
