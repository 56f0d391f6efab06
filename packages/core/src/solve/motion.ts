import type { Matrix3, Point } from '../geometry/matrix.js';
import { composeSimilarity, type SimilarityParts } from '../geometry/similarity.js';

/**
 * How much of a frame's motion was measured: everything, the position alone, or nothing; `guessed` where spots that were
 * coasted leave less than there would be. What was not measured is bridged from frame to frame, and held at the ends.
 */
export type Support = 'full' | 'position' | 'guessed' | 'none';

/** What a spot is asked about: where the thing is, how it turns and grows, or both. */
export type Role = 'both' | 'position' | 'turn';

/** The motion of what is held, frame by frame: M[i] takes reference-frame coordinates to frame i's. */
export interface Motion {
  readonly ref: number;
  /** The point, in reference-frame coordinates, about which the parts are told. */
  readonly pivot: Point;
  readonly pixelAspect: number;
  readonly parts: readonly SimilarityParts[];
  readonly support: readonly Support[];
  /** Where each spot rests in reference-frame coordinates; null for a spot that no other links to the rest. */
  readonly rest: readonly (Point | null)[];
  /** Root mean square distance in pixels between samples and model; NaN where nothing was measured. */
  readonly residual: Float64Array;
  /** Distance of each spot's samples from the model, in pixels by frame; NaN where it has none or is not linked. */
  readonly residuals: readonly Float32Array[];
  /** What the robust solve lets each spot count for, 0 to 1 on average; 1 where all agree. */
  readonly trust: Float64Array;
}

/** M of a frame. */
export function motionMatrix({ parts, pivot, pixelAspect }: Motion, frame: number): Matrix3 {
  return composeSimilarity(parts[frame], pivot, pixelAspect);
}
