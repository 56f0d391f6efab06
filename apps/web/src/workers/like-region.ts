import { rangeShare, type ColourRange } from '@lurn/core/compose';
import {
  apply,
  invert,
  regionAbout,
  type Likeness,
  type Matrix3,
  type Point,
  type Region,
} from '@lurn/core/geometry';
import type { PlaneCoding } from '@lurn/core/picture';
import type { Picture } from '@lurn/media';

type Planes = Pick<Picture, 'y' | 'u' | 'v' | 'subsampling'>;

/** Looked at no larger than this across: noise is evened out, and a mesh needs no more. */
const ACROSS = 640;

/**
 * How much of a picture lies in a range of colours: samples of `step` by `step` pixels, by the mean of their luma and the
 * chroma in their middle.
 */
export function likenessOf(
  { y, u, v, subsampling }: Planes,
  coding: PlaneCoding,
  range: ColourRange,
  step: number,
): Likeness {
  const [width, height] = [Math.floor(y.width / step), Math.floor(y.height / step)];
  const data = new Float32Array(width * height);
  const rgb = new Float64Array(3);
  for (let row = 0; row < height; row++) {
    for (let column = 0; column < width; column++) {
      let sum = 0;
      for (let j = 0; j < step; j++)
        for (let i = 0; i < step; i++) sum += y.data[(row * step + j) * y.stride + column * step + i];
      const cx = Math.min(u.width - 1, Math.floor(((column + 0.5) * step) / subsampling.x));
      const cy = Math.min(u.height - 1, Math.floor(((row + 0.5) * step) / subsampling.y));
      coding.toRgb(sum / (step * step), u.data[cy * u.stride + cx], v.data[cy * v.stride + cx], rgb);
      data[row * width + column] = rangeShare(range, rgb, coding.kr, coding.kb);
    }
  }
  return { width, height, data };
}

/**
 * What hangs together with a place and has a colour of the range.
 *
 * @param at           in pixels of the upright picture, as the region comes back
 * @param fromUpright  those to luma samples
 */
export function regionOfColour(
  picture: Planes,
  coding: PlaneCoding,
  range: ColourRange,
  at: Point,
  fromUpright: Matrix3,
): Region | null {
  const step = Math.max(1, Math.round(picture.y.width / ACROSS));
  const there = apply(fromUpright, at.x, at.y);
  const found = regionAbout(likenessOf(picture, coding, range, step), {
    x: there.x / step,
    y: there.y / step,
  });
  if (!found) return null;
  const back = invert(fromUpright);
  const upright = (ring: readonly Point[]) => ring.map(({ x, y }) => apply(back, x * step, y * step));
  return { outline: upright(found.outline), holes: found.holes.map(upright) };
}
