import { tangentAt } from '../geometry/homography.js';
import type { Matrix3, Point } from '../geometry/matrix.js';
import {
  composeSimilarity,
  decomposeSimilarity,
  unwrapAngles,
  type SimilarityParts,
} from '../geometry/similarity.js';

/**
 * How much of a frame's motion was measured: everything, the position alone, or nothing; `guessed` where spots that were
 * coasted leave less than there would be. What was not measured is bridged from frame to frame, and held at the ends.
 */
export type Support = 'full' | 'position' | 'guessed' | 'none';

/** What a spot is asked about: where the thing is, how it turns and grows, or both. */
export type Role = 'both' | 'position' | 'turn';

/** What the solve makes of one tracker. */
export interface Solved {
  /** Where it rests in reference-frame coordinates; null where no other links it to the rest. */
  readonly rest: Point | null;
  /** Distance of its samples from the model, in pixels by frame; NaN where it has none or is not linked. */
  readonly residuals: Float32Array;
}

/** What motions of any model have in common. */
interface MotionFacts {
  readonly ref: number;
  /** The point, in reference-frame coordinates, about which the parts are told. */
  readonly pivot: Point;
  readonly pixelAspect: number;
  /** What goals and smoothing work on: all of a similarity, of a homography what it does about the pivot. */
  readonly parts: readonly SimilarityParts[];
  readonly support: readonly Support[];
  /** 1 on frames on which the whole picture tells what the spots do not; missing where it was not asked. */
  readonly filled?: Uint8Array;
  /** Of every tracker that was solved from, by its id. */
  readonly byId: Readonly<Record<string, Solved>>;
  /** First frames of parts of the clip that have nothing to do with what is before them; each stands by itself. */
  readonly cuts?: readonly number[];
  /** Root mean square distance in pixels between samples and model; NaN where nothing was measured. */
  readonly residual: Float64Array;
}

/** What each model adds to the parts. */
interface MotionModels {
  readonly similarity: unknown;
  /** M of every frame. */
  readonly homography: { readonly matrices: readonly Matrix3[] };
}
export type MotionModel = keyof MotionModels;

/** The motion of a mover, frame by frame: M[i] takes reference-frame coordinates to frame i's. */
export type Motion<M extends MotionModel = MotionModel> = M extends MotionModel
  ? MotionFacts & { readonly model: M } & MotionModels[M]
  : never;

/** M of a frame. */
export function motionMatrix(motion: Motion, frame: number): Matrix3 {
  return 'matrices' in motion
    ? motion.matrices[frame]
    : composeSimilarity(motion.parts[frame], motion.pivot, motion.pixelAspect);
}

/** A homography's motion told about a pivot, its parts those of the similarity that it is nearest to there. */
export function homographyMotion(
  matrices: readonly Matrix3[],
  facts: Omit<Motion<'homography'>, 'model' | 'matrices' | 'parts'>,
): Motion<'homography'> {
  const { pivot, pixelAspect } = facts;
  const parts = matrices.map((m) => decomposeSimilarity(tangentAt(m, pivot), pivot, pixelAspect));
  const turns = unwrapAngles(parts.map((p) => p.rotation));
  return {
    ...facts,
    model: 'homography',
    matrices,
    parts: parts.map((p, f) => ({ ...p, rotation: turns[f] - turns[facts.ref] })),
  };
}
