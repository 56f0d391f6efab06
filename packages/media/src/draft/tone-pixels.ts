import type { ToneMap } from '@lurn/core/picture';
import type { Raster } from './raster.js';

/** Shows the pixels of a raster's rectangle as a tone map has them. Cost: some forty operations a pixel. */
export function tonePixels(
  { pixels, width }: Raster,
  { left, right, top, bottom }: { left: number; right: number; top: number; bottom: number },
  map: ToneMap,
): void {
  const out = new Uint8Array(3);
  for (let j = top; j < bottom; j++) {
    for (let k = j * width + left; k < j * width + right; k++) {
      const p = pixels[k];
      map.show(p & 255, (p >> 8) & 255, (p >> 16) & 255, out);
      pixels[k] = (255 << 24) | (out[2] << 16) | (out[1] << 8) | out[0];
    }
  }
}
