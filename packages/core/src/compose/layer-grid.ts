import { apply, IDENTITY, invert, type Matrix3 } from '../geometry/matrix.js';
import { before, placeThrough, type WarpEvaluator, type Warp } from '../geometry/warp.js';
import type { AnyPlane } from '../picture/plane.js';
import { chromaToLuma } from '../warp/chroma.js';
import type { PicturePlanes } from './picture-planes.js';
import type { ChromaSiting } from '../picture/subsampling.js';

/** Part of a grid: from (x0, y0) up to but without (x1, y1). */
export interface Box {
  readonly x0: number;
  readonly y0: number;
  readonly x1: number;
  readonly y1: number;
}

export const isEmpty = ({ x0, y0, x1, y1 }: Box) => x1 <= x0 || y1 <= y0;

/**
 * The samples of luma, or of chroma, as a layer is drawn on them: each grid by itself, as pictures are warped, with what
 * the other planes show at its samples.
 */
export class LayerGrid {
  readonly width: number;
  readonly height: number;
  /** The planes that belong to it, each with its place among luma and the two chroma planes. */
  readonly own: readonly (readonly [0 | 1 | 2, AnyPlane])[];
  /** Samples of the grid to pixels of the scene. */
  private readonly toScene: Matrix3;

  /** @param of  which planes are written */
  constructor(
    readonly of: 'luma' | 'chroma',
    private readonly planes: PicturePlanes,
    siting: ChromaSiting,
  ) {
    const { y, u, subsampling } = planes;
    const luma = of === 'luma';
    this.toScene = luma ? IDENTITY : chromaToLuma(subsampling, siting);
    this.width = luma ? y.width : u.width;
    this.height = luma ? y.height : u.height;
    this.own = luma
      ? [[0, y]]
      : [
          [1, u],
          [2, planes.v],
        ];
  }

  /** A warp of the scene as one of the grid. */
  warp(scene: Warp): Warp {
    return this.of === 'luma' ? scene : before(scene, this.toScene);
  }

  /** A warp of the scene, followed by a matrix, as places of the grid are asked for. */
  placing(scene: Warp, then: Matrix3): WarpEvaluator {
    return placeThrough(this.warp(scene), then);
  }

  /** What part of it a part of the scene covers, whole samples. */
  box({ x0, y0, x1, y1 }: Box): Box {
    const back = invert(this.toScene);
    const [a, b] = [apply(back, x0, y0), apply(back, x1, y1)];
    return {
      x0: Math.max(0, Math.floor(a.x) - 1),
      y0: Math.max(0, Math.floor(a.y) - 1),
      x1: Math.min(this.width, Math.ceil(b.x) + 1),
      y1: Math.min(this.height, Math.ceil(b.y) + 1),
    };
  }

  /** Reads luma and chroma, of these planes or others alike, at the samples of a row, as far as they are in other planes by averages or by the nearest. */
  readRow(row: number, { x0, x1 }: Box, out: RowOfColours, from = this.planes): void {
    const { y, u, v, subsampling } = from;
    if (this.of === 'luma') {
      const line = row * y.stride;
      const far = (row / subsampling.y) | 0;
      for (let i = x0, k = 0; i < x1; i++, k++) {
        const column = (i / subsampling.x) | 0;
        out.y[k] = y.data[line + i];
        out.u[k] = u.data[far * u.stride + column];
        out.v[k] = v.data[far * v.stride + column];
      }
      return;
    }
    const { x: sx, y: sy } = subsampling;
    for (let i = x0, k = 0; i < x1; i++, k++) {
      let sum = 0;
      for (let b = 0; b < sy; b++) {
        const line = Math.min(y.height - 1, row * sy + b) * y.stride;
        for (let a = 0; a < sx; a++) sum += y.data[line + Math.min(y.width - 1, i * sx + a)];
      }
      out.y[k] = sum / (sx * sy);
      out.u[k] = u.data[row * u.stride + i];
      out.v[k] = v.data[row * v.stride + i];
    }
  }

  /** Alpha at a sample, 0 to 1. */
  alphaAt(i: number, row: number, alpha: AnyPlane, peak: number): number {
    if (this.of === 'luma') return alpha.data[row * alpha.stride + i] / peak;
    const { x, y } = this.planes.subsampling;
    const line = Math.min(alpha.height - 1, row * y) * alpha.stride;
    return alpha.data[line + Math.min(alpha.width - 1, i * x)] / peak;
  }
}

/** Luma and chroma of some samples in a row. */
export interface RowOfColours {
  readonly y: Float64Array;
  readonly u: Float64Array;
  readonly v: Float64Array;
}
