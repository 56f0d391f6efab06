import type { Rgb } from '../picture/rgb.js';

/** A range of colours: near one, as far as `reach`, and fading out over `soften`; both 0 to 1 of the way from black to white. */
export interface ColourRange {
  readonly colour: Rgb;
  readonly reach: number;
  readonly soften: number;
  /** True: how bright it is counts alone. */
  readonly brightness: boolean;
}

/** How much of a colour lies in a range, 0 to 1. @param rgb  0 to 1 each */
export function rangeShare(range: ColourRange, rgb: Float64Array, kr: number, kb: number): number {
  const { colour, reach, soften, brightness } = range;
  const [dr, dg, db] = [rgb[0] - colour[0] / 255, rgb[1] - colour[1] / 255, rgb[2] - colour[2] / 255];
  const dy = kr * dr + (1 - kr - kb) * dg + kb * db;
  // Colour counts more than brightness: shade and light lie on one thing.
  const off = brightness ? Math.abs(dy) : Math.hypot(0.4 * dy, db - dy, dr - dy);
  if (off <= reach) return 1;
  const t = soften > 0 ? 1 - (off - reach) / soften : 0;
  return t <= 0 ? 0 : t * t * (3 - 2 * t);
}
