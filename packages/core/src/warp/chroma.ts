import { invert, type Matrix3 } from '../geometry/matrix.js';
import { between, type Warp } from '../geometry/warp.js';
import type { ChromaSiting, Subsampling } from '../picture/subsampling.js';

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
export function chromaWarp(lumaWarp: Warp, subsampling: Subsampling, siting: ChromaSiting): Warp {
  const toLuma = chromaToLuma(subsampling, siting);
  return between(invert(toLuma), lumaWarp, toLuma);
}
