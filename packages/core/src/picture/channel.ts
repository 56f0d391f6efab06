import { lumaWeights, type ColourCode } from './colour.js';
import { createPlane, type Plane } from './plane.js';
import type { Subsampling } from './subsampling.js';

/** What the tracker matches on. */
export type Channel = 'luma' | 'red' | 'green' | 'blue' | 'saturation';

/** A picture in luma and colour differences, eight bits each. */
export interface ColourPlanes {
  readonly y: Plane;
  readonly u: Plane;
  readonly v: Plane;
  readonly subsampling: Subsampling;
}

/**
 * One channel of a picture at full size, 0 to 255. Chroma is taken from the nearest sample: the tracker is told
 * in the interface that colour is coarser than luma in most files. Saturation is the length of the colour
 * difference, which does not depend on how bright the light is set.
 *
 * Cost: a handful of operations a pixel; luma is returned as it is.
 */
export function channelPlane(planes: ColourPlanes, channel: Channel, code: ColourCode): Plane {
  const { y, u, v, subsampling } = planes;
  if (channel === 'luma') return y;
  const out = createPlane(y.width, y.height);
  const [kr, kb] = lumaWeights(code.space, y.height);
  const full = code.range === 'pc';
  const [black, gain] = full ? [0, 1] : [16, 255 / 219];
  const chroma = full ? 1 : 255 / 224;
  const red = 2 * (1 - kr) * chroma;
  const blue = 2 * (1 - kb) * chroma;
  const greenU = (blue * kb) / (1 - kr - kb);
  const greenV = (red * kr) / (1 - kr - kb);
  for (let j = 0, q = 0; j < y.height; j++) {
    const line = j * y.stride;
    const row = Math.floor(j / subsampling.y);
    for (let i = 0; i < y.width; i++, q++) {
      const column = Math.floor(i / subsampling.x);
      const light = gain * (y.data[line + i] - black);
      const cb = u.data[row * u.stride + column] - 128;
      const cr = v.data[row * v.stride + column] - 128;
      let value: number;
      if (channel === 'red') value = light + red * cr;
      else if (channel === 'blue') value = light + blue * cb;
      else if (channel === 'green') value = light - greenU * cb - greenV * cr;
      else value = 2 * chroma * Math.hypot(cb, cr);
      out.data[q] = value < 0 ? 0 : value > 255 ? 255 : value + 0.5;
    }
  }
  return out;
}
