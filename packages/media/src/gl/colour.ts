/** How a clip's planes become red, green and blue. */
export interface ColourCoding {
  readonly range: 'tv' | 'pc';
  /** ffmpeg's name of the matrix; null where the file does not tell. */
  readonly space: string | null;
}

/** Luma weights of red and blue (ITU-R BT.601, BT.709, BT.2020). */
function weights(space: string | null, height: number): readonly [number, number] {
  if (space === 'bt2020nc' || space === 'bt2020c') return [0.2627, 0.0593];
  if (space === 'bt709') return [0.2126, 0.0722];
  if (space === 'smpte170m' || space === 'bt470bg' || space === 'fcc') return [0.299, 0.114];
  return height >= 720 ? [0.2126, 0.0722] : [0.299, 0.114];
}

/**
 * The matrix (column-major, as WebGL wants it) and offset with which rgb = matrix (yuv - offset), all in 0..1.
 */
export function yuvToRgb(
  coding: ColourCoding,
  height: number,
): { matrix: Float32Array; offset: readonly number[] } {
  const [kr, kb] = weights(coding.space, height);
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
