import { chain, invert, type Matrix3 } from '../geometry/matrix.js';

/** How many luma samples one chroma sample spans. */
export interface Subsampling {
  readonly x: 1 | 2 | 4;
  readonly y: 1 | 2;
}

/** Where chroma samples sit: `left`, on the first luma column as in MPEG-2 and H.264; `center`, between them. */
export type ChromaSiting = 'left' | 'center';

/**
 * Chroma-plane coordinates to luma coordinates, both corner-based. With `left` siting sample i lies on luma
 * sample x = 2 i, whose centre is 2 i + 0.5, so luma x = 2 (i + 0.5) - 0.5; vertically it lies midway
 * (ITU-T H.264 figure E-1, type 0; JPEG is type 1, `center`).
 */
export function chromaToLuma(subsampling: Subsampling, siting: ChromaSiting): Matrix3 {
  const offset = siting === 'left' ? -(subsampling.x - 1) / 2 : 0;
  return [subsampling.x, 0, offset, 0, subsampling.y, 0, 0, 0, 1];
}

/** The warp of the chroma planes that goes with a warp of luma. */
export function chromaWarp(lumaWarp: Matrix3, subsampling: Subsampling, siting: ChromaSiting): Matrix3 {
  const toLuma = chromaToLuma(subsampling, siting);
  return chain(invert(toLuma), lumaWarp, toLuma);
}
