/** What is known of a vertex on a frame before it is judged. */
export interface VertexEvidence {
  /** Predicted standard deviation of its place, in pixels, from the texture about it and how the mesh is held. */
  readonly error: number;
  /** The part of the texture about it that was seen and fitted. */
  readonly held: number;
  /** Misfit of the blocks about it against what is expected. */
  readonly misfit: number;
  /** Correlation of the texture about it with what is seen there: noise alone is like nothing. */
  readonly score: number;
  /** How much the texture that fitted changes from pixel to pixel, in grey levels (root mean square). */
  readonly texture: number;
  /** Standard deviation of the picture's noise, in grey levels. */
  readonly noise: number;
}

/**
 * Weights of a logistic function of the evidence for "within 0.5 px of truth", fitted (Newton's method, a ridge of 5) to
 * 250 000 vertices of photographs that were bent by a known motion, in noise, in changing light, behind a passing thing,
 * and coded well to badly. A camera's picture without noise has lost it to the codec, and faint texture with it: what is
 * left of that is carried along by the codec's own motion, so it fits and is wrong.
 */
const WEIGHTS = {
  ...{ constant: 0.57, error: -2.42, held: 0.82, misfit: -1.84, unlike: -0.18 },
  ...{ codedTexture: 1.28, coded: -1.93 },
};
const IN_ORDER = Object.values(WEIGHTS);
/** A picture with less noise than this, in grey levels, was smoothed by its codec. */
const CODED = 1;

/** The features that the weights weigh, in their order. */
export function vertexFeatures(e: VertexEvidence): readonly number[] {
  const coded = Math.max(0, 1 - e.noise / CODED);
  return [
    1,
    Math.log(Math.min(50, Math.max(0.01, e.error)) / 0.1),
    Math.log(Math.max(0.02, e.held)),
    Math.min(4, e.misfit) - 1,
    Math.log(Math.min(1, Math.max(0.002, 1 - e.score)) / 0.02),
    Math.log(Math.min(100, Math.max(0.2, e.texture)) / 3) * coded,
    coded,
  ];
}

/** The probability that a vertex lies within 0.5 px of where it is. */
export function vertexConfidence(e: VertexEvidence): number {
  const logit = vertexFeatures(e).reduce((sum, f, k) => sum + f * IN_ORDER[k], 0);
  return 1 / (1 + Math.exp(-logit));
}
