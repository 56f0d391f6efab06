import { lumaWeights, type ColourCode, type LightCode } from '@lurn/core/picture';

/** How a clip's planes become red, green and blue, and how those are shown where they tell of more light than a screen has. */
export type ColourCoding = ColourCode & LightCode;

/**
 * The matrix (column-major, as WebGL wants it) and offset with which rgb = matrix (yuv - offset), all in 0..1.
 */
export function yuvToRgb(
  coding: ColourCoding,
  height: number,
): { matrix: Float32Array; offset: readonly number[] } {
  const [kr, kb] = lumaWeights(coding.space, height);
  const kg = 1 - kr - kb;
  const full = coding.range === 'pc';
  const y = full ? 1 : 255 / 219;
  const c = full ? 1 : 255 / 224;
  const [rv, bu] = [2 * (1 - kr) * c, 2 * (1 - kb) * c];
  const [gu, gv] = [(-bu * kb) / kg, (-rv * kr) / kg];
  return {
    matrix: Float32Array.of(y, y, y, 0, gu, bu, rv, gv, 0),
    offset: [full ? 0 : 16 / 255, 128 / 255, 128 / 255],
  };
}
