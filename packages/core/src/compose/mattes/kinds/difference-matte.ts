import { median } from 'd3-array';
import { evaluatorOf, type Warp } from '../../../geometry/warp.js';
import { chromaWarp } from '../../../warp/chroma.js';
import { sampleCubic } from '../../../warp/warp-plane.js';
import { blur } from '../../box-blur.js';
import type { PicturePlanes } from '../../picture-planes.js';
import { placesRoom } from '../../row-room.js';
import { carriedTo, onTo, toOwnOf } from '../../seen.js';
import type { MatteGround, MatteKind } from '../matte-kind.js';

/** What differs from a frame on which nothing is in the way: what passes in front. */
export interface DifferenceLook {
  readonly kind: 'difference';
  /** On which nothing is in the way. */
  readonly frame: number;
  /** From which difference on something is in front, and over how much more it comes to be so; of the way to white. */
  readonly reach: number;
  readonly soften: number;
  /** True: the layer is shown beyond it, and not inside. */
  readonly outside: boolean;
}

export interface DifferenceMatte extends DifferenceLook {
  /** Pixels of the scene to source pixels of that frame. */
  readonly toPicture: Warp;
}

/** Differences are looked at over so many pixels about each: noise and a hair of misplacement say nothing. */
const SIGMA = 2;
/** Colours count for more than brightness: light changes. */
const COLOUR = 1.5;

/**
 * How much a picture differs from another frame's, carried to where it would be if nothing moved but what is ridden on: of
 * the way from black to white, in brightness and in colour, blurred. A change of light all over is taken out.
 *
 * @param lent  the other frame's
 */
function differenceOver(
  { toPicture }: DifferenceMatte,
  { box, grid, below, coding, siting }: MatteGround,
  lent: PicturePlanes,
): Float32Array {
  const [w, h] = [box.x1 - box.x0, box.y1 - box.y0];
  const perLuma = grid.of === 'luma' ? 1 : below.subsampling.x;
  const luma = new Float32Array(w * h);
  const colour = new Float32Array(w * h);
  const colours = { y: new Float64Array(w), u: new Float64Array(w), v: new Float64Array(w) };
  const onLuma = evaluatorOf(grid.warp(toPicture));
  // Samples of the grid to the lent picture's chroma planes.
  const { subsampling } = below;
  const toChroma = chromaWarp(toPicture, subsampling, siting);
  const onChroma = grid.of === 'luma' ? null : evaluatorOf(toChroma);
  const { xs, ys } = placesRoom(0, w);
  const chroma = placesRoom(1, w);
  for (let j = 0; j < h; j++) {
    const row = box.y0 + j;
    grid.readRow(row, box, colours, below);
    onLuma.row(row + 0.5, box.x0 + 0.5, box.x1 + 0.5, xs, ys);
    onChroma?.row(row + 0.5, box.x0 + 0.5, box.x1 + 0.5, chroma.xs, chroma.ys);
    for (let i = 0, k = j * w; i < w; i++, k++) {
      const [cx, cy] = onChroma
        ? [chroma.xs[i], chroma.ys[i]]
        : [xs[i] / subsampling.x + (siting === 'left' ? 0.25 : 0), ys[i] / subsampling.y];
      luma[k] = (colours.y[i] - sampleCubic(lent.y, xs[i], ys[i])) / coding.span;
      const u = colours.u[i] - sampleCubic(lent.u, cx, cy);
      const v = colours.v[i] - sampleCubic(lent.v, cx, cy);
      colour[k] = (COLOUR * Math.hypot(u, v)) / coding.chroma;
    }
  }
  const light = median(luma) ?? 0;
  for (let k = 0; k < luma.length; k++) luma[k] = Math.abs(luma[k] - light) + colour[k];
  blur(luma, w, h, SIGMA / perLuma);
  return luma;
}

export const DIFFERENCE_MATTE: MatteKind<DifferenceLook, DifferenceMatte> = {
  shown(matte, on, seen) {
    const own = toOwnOf(on, carriedTo(on, seen), seen);
    const there = carriedTo(on, { ...seen, frame: matte.frame });
    return own && { ...matte, toPicture: onTo(own, there, seen.size) };
  },
  through: (matte, _, both) => ({ ...matte, toPicture: both(matte.toPicture) }),
  frame: ({ frame }) => frame,
  ask(matte, ground) {
    const { reach, soften, outside } = matte;
    const off = differenceOver(matte, ground, ground.pictures(matte.frame));
    return (row, _, out) => {
      const line = (row - ground.box.y0) * out.length;
      for (let i = 0; i < out.length; i++) {
        const t = soften > 0 ? (off[line + i] - reach) / soften : off[line + i] > reach ? 1 : 0;
        const share = t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t);
        out[i] = outside ? 1 - share : share;
      }
    };
  },
};
