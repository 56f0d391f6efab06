import { chain, scaling, translation, type Matrix3, type Point } from './matrix.js';

/**
 * A similarity told by what it does about a pivot: the pivot moves by (x, y) pixels, and round it the picture
 * turns by `rotation` radians (clockwise on screen) and grows by exp(`logScale`).
 */
export interface SimilarityParts {
  readonly x: number;
  readonly y: number;
  readonly rotation: number;
  readonly logScale: number;
}

export const NO_MOTION: SimilarityParts = { x: 0, y: 0, rotation: 0, logScale: 0 };

/**
 * The matrix of a similarity about a pivot. With y downwards a positive angle turns clockwise on screen.
 *
 * @param pixelAspect  width of a pixel over its height. The turn happens among square pixels: x is stretched
 *                     by it before and shrunk after, so that a rotation stays one on anamorphic footage.
 */
export function composeSimilarity(parts: SimilarityParts, pivot: Point, pixelAspect = 1): Matrix3 {
  const s = Math.exp(parts.logScale);
  const c = s * Math.cos(parts.rotation);
  const n = s * Math.sin(parts.rotation);
  const turn: Matrix3 = [c, -n, 0, n, c, 0, 0, 0, 1];
  return chain(
    translation(pivot.x + parts.x, pivot.y + parts.y),
    scaling(1 / pixelAspect, 1),
    turn,
    scaling(pixelAspect, 1),
    translation(-pivot.x, -pivot.y),
  );
}

/** The parts of a similarity matrix about a pivot; the inverse of {@link composeSimilarity}. */
export function decomposeSimilarity(m: Matrix3, pivot: Point, pixelAspect = 1): SimilarityParts {
  const c = (m[0] + m[4]) / 2;
  const n = (m[3] / pixelAspect - m[1] * pixelAspect) / 2;
  return {
    x: m[0] * pivot.x + m[1] * pivot.y + m[2] - pivot.x,
    y: m[3] * pivot.x + m[4] * pivot.y + m[5] - pivot.y,
    rotation: Math.atan2(n, c),
    logScale: Math.log(Math.hypot(c, n)),
  };
}

/** A point before and after, with the weight it carries in a fit. */
export interface Correspondence {
  readonly fromX: number;
  readonly fromY: number;
  readonly toX: number;
  readonly toY: number;
  readonly weight: number;
}

/**
 * The similarity that takes `from` to `to` with the least weighted squared error.
 *
 * Closed form for the plane of the absolute-orientation problem (Umeyama 1991, "Least-squares estimation of
 * transformation parameters between two point patterns", eqs. 40-43; in two dimensions the SVD reduces to the
 * angle and length of one complex sum). A reflection is never returned.
 *
 * @returns the matrix, or null when fewer than two distinct points carry weight: rotation and scale are then
 *          not determined.
 */
export function fitSimilarity(pairs: readonly Correspondence[], pixelAspect = 1): Matrix3 | null {
  let w = 0;
  let fx = 0;
  let fy = 0;
  let tx = 0;
  let ty = 0;
  for (const p of pairs) {
    w += p.weight;
    fx += p.weight * p.fromX;
    fy += p.weight * p.fromY;
    tx += p.weight * p.toX;
    ty += p.weight * p.toY;
  }
  if (!(w > 0)) return null;
  fx /= w;
  fy /= w;
  tx /= w;
  ty /= w;
  let re = 0;
  let im = 0;
  let spread = 0;
  for (const p of pairs) {
    const ax = (p.fromX - fx) * pixelAspect;
    const ay = p.fromY - fy;
    const bx = (p.toX - tx) * pixelAspect;
    const by = p.toY - ty;
    re += p.weight * (ax * bx + ay * by);
    im += p.weight * (ax * by - ay * bx);
    spread += p.weight * (ax * ax + ay * ay);
  }
  const length = Math.hypot(re, im);
  if (spread < 1e-9 * w || length < 1e-12 * w) return null;
  return chain(
    translation(tx, ty),
    composeSimilarity(
      { x: 0, y: 0, rotation: Math.atan2(im, re), logScale: Math.log(length / spread) },
      { x: 0, y: 0 },
      pixelAspect,
    ),
    translation(-fx, -fy),
  );
}

/** Angles along a track without jumps of a whole turn: each differs from the one before by at most pi. */
export function unwrapAngles(angles: readonly number[]): number[] {
  let turns = 0;
  return angles.map((angle, i) => {
    if (i > 0) {
      const step = angle - angles[i - 1];
      if (step > Math.PI) turns -= 2 * Math.PI;
      else if (step < -Math.PI) turns += 2 * Math.PI;
    }
    return angle + turns;
  });
}
