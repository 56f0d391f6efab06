import { scaling } from '../../../geometry/matrix.js';
import { before, type Warp } from '../../../geometry/warp.js';
import { filmKey, type Raster } from '../../raster.js';
import type { MatteKind } from '../matte-kind.js';

/** A film of masks, white where something is, in step with the shot. */
export interface MaskLook {
  readonly kind: 'mask';
  /** What its frames are asked for by ({@link filmKey}). */
  readonly film: string;
  /** The shot's frame that its first one is of, and how many it has. */
  readonly from: number;
  readonly frames: number;
  /** Its samples per pixel of the upright source. */
  readonly scale: number;
  readonly outside: boolean;
}

export interface MaskMatte {
  readonly kind: 'mask';
  /** By which the mask of this frame is asked for; it lies over the whole of the upright source picture. */
  readonly raster: string;
  readonly scale: number;
  /** Pixels of the scene to upright source pixels of its frame. */
  readonly toSource: Warp;
  /** True: the layer is shown beyond it, and not inside. */
  readonly outside: boolean;
}

/** Before its first frame and after its last there is nothing of what was masked. */
export const MASK_MATTE: MatteKind<MaskLook, MaskMatte> = {
  shown({ film, from, frames, scale, outside }, _, { frame, toSource }) {
    const at = frame - from;
    const raster = at >= 0 && at < frames ? filmKey(film, at) : '';
    return { kind: 'mask', raster, scale, toSource, outside };
  },
  through: (matte, first) => ({ ...matte, toSource: before(matte.toSource, first) }),
  raster: ({ raster }) => raster,
  ask({ raster, scale, toSource, outside }, { grid, box: { x0, x1 }, rasters }) {
    const mask = raster ? rasters(raster) : null;
    if (!mask) return (_row, _colours, out) => void out.fill(outside ? 1 : 0);
    const place = grid.placing(toSource, scaling(scale, scale));
    const [xs, ys] = [new Float64Array(x1 - x0), new Float64Array(x1 - x0)];
    return (row, _, out) => {
      place.row(row + 0.5, x0 + 0.5, x1 + 0.5, xs, ys);
      for (let i = 0; i < out.length; i++) {
        const share = maskAt(mask, xs[i], ys[i]);
        out[i] = outside ? 1 - share : share;
      }
    };
  },
};

/** The share at a place of a mask's picture, by its first colour, from the four samples about it; nothing beyond its rim. */
function maskAt({ width, height, data }: Raster, x: number, y: number): number {
  if (!(x >= 0 && y >= 0 && x <= width && y <= height)) return 0;
  const [px, py] = [Math.max(0, x - 0.5), Math.max(0, y - 0.5)];
  const [x0, y0] = [Math.min(width - 1, Math.floor(px)), Math.min(height - 1, Math.floor(py))];
  const [x1, y1] = [Math.min(width - 1, x0 + 1), Math.min(height - 1, y0 + 1)];
  const [fx, fy] = [px - x0, py - y0];
  const at = (column: number, row: number) => data[4 * (row * width + column)];
  const above = at(x0, y0) + fx * (at(x1, y0) - at(x0, y0));
  const below = at(x0, y1) + fx * (at(x1, y1) - at(x0, y1));
  return (above + fy * (below - above)) / 255;
}
