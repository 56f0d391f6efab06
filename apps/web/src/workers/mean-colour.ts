import type { Point } from '@lurn/core/geometry';
import type { PlaneCoding, Rgb } from '@lurn/core/picture';
import type { Picture } from '@lurn/media';

/**
 * Red, green and blue, 0 to 255, about a place: the mean of three by three samples of luma, and of the chroma there.
 *
 * @param at  in luma samples, corner-based @returns null beyond the picture
 */
export function meanColour(
  { y, u, v, subsampling }: Pick<Picture, 'y' | 'u' | 'v' | 'subsampling'>,
  at: Point,
  coding: PlaneCoding,
): Rgb | null {
  const [x0, y0] = [Math.floor(at.x), Math.floor(at.y)];
  if (x0 < 0 || y0 < 0 || x0 >= y.width || y0 >= y.height) return null;
  const within = (i: number, size: number) => Math.min(size - 1, Math.max(0, i));
  const sums = [0, 0, 0];
  for (let j = -1; j <= 1; j++)
    for (let i = -1; i <= 1; i++) {
      const [column, row] = [within(x0 + i, y.width), within(y0 + j, y.height)];
      const [cx, cy] = [
        within((column / subsampling.x) | 0, u.width),
        within((row / subsampling.y) | 0, u.height),
      ];
      sums[0] += y.data[row * y.stride + column];
      sums[1] += u.data[cy * u.stride + cx];
      sums[2] += v.data[cy * v.stride + cx];
    }
  const rgb = new Float64Array(3);
  coding.toRgb(sums[0] / 9, sums[1] / 9, sums[2] / 9, rgb);
  const [r, g, b] = [...rgb].map((value) => Math.round(255 * Math.min(1, Math.max(0, value))));
  return [r, g, b];
}
