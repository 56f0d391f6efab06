import type { PlaneCoding } from '../picture/colour.js';
import type { AnyPlane } from '../picture/plane.js';
import { blur } from './box-blur.js';
import type { Tint } from './layer.js';
import type { Box } from './layer-grid.js';

/** What layers make of the picture that lies under them. */

/** A blurred copy of part of a plane, from as far round as the blur looks. @param sigma  in samples of the plane */
export function blurred(box: Box, plane: AnyPlane, sigma: number): { data: Float32Array; region: Box } {
  const reach = Math.ceil(3 * sigma);
  const region = {
    x0: Math.max(0, box.x0 - reach),
    y0: Math.max(0, box.y0 - reach),
    x1: Math.min(plane.width, box.x1 + reach),
    y1: Math.min(plane.height, box.y1 + reach),
  };
  const [w, h] = [region.x1 - region.x0, region.y1 - region.y0];
  const data = new Float32Array(w * h);
  for (let j = 0; j < h; j++)
    for (let i = 0; i < w; i++) data[j * w + i] = plane.data[(region.y0 + j) * plane.stride + region.x0 + i];
  blur(data, w, h, sigma);
  return { data, region };
}

/** A tint as a change of luma and chroma: the colour differences turn and grow, all of it gets more or less light. */
export function tintOf(
  { hue, saturation, lightness, exposure }: Tint,
  { black, span, middle }: PlaneCoding,
): (y: number, u: number, v: number, out: Float64Array) => void {
  const light = 2 ** exposure;
  const [cos, sin] = [light * saturation * Math.cos(hue), light * saturation * Math.sin(hue)];
  return (y, u, v, out) => {
    out[0] = black + light * (y - black) + lightness * span;
    out[1] = middle + cos * (u - middle) + sin * (v - middle);
    out[2] = middle + cos * (v - middle) - sin * (u - middle);
  };
}

/** About a normal distribution, the same for the same sample and frame (sums of a hash's bytes). */
export function grainAt(x: number, y: number, frame: number): number {
  let h = Math.imul(x + 1, 0x9e3779b1) ^ Math.imul(y + 1, 0x85ebca77) ^ Math.imul(frame + 1, 0xc2b2ae3d);
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
  h = Math.imul(h ^ (h >>> 12), 0x297a2d39);
  h ^= h >>> 15;
  const sum = (h & 255) + ((h >>> 8) & 255) + ((h >>> 16) & 255) + ((h >>> 24) & 255);
  // Four bytes together: mean 510, standard deviation 147.8.
  return (sum - 510) / 147.8;
}
