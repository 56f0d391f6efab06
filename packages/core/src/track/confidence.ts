/** What is known of a match before it is judged. */
export interface Evidence {
  /** Predicted standard deviation of the place, in pixels ({@link Alignment.error}). */
  readonly error: number;
  /** Normalised cross-correlation, -1 to 1. */
  readonly score: number;
  /** What the score was while the feature was surely seen, on this footage. */
  readonly usualScore: number;
  /** Misfit of the worst part of the patch against the usual part ({@link Alignment.uneven}). */
  readonly uneven: number;
  /** The score of the best other place within the reach, -1 when there is none. */
  readonly rival: number;
  readonly converged: boolean;
}

/**
 * Weights of a logistic regression of "within 0.3 px of truth" on the evidence, fitted on made-up footage with
 * noise, blur, flicker, compression, turning, growth and occlusion (`npx tsx bench/calibrate.ts` fits and prints them;
 * other seeds and textures judge them). Logistic regression as a calibration of classifier scores: Platt 1999,
 * "Probabilistic outputs for support vector machines".
 */
const WEIGHTS = { constant: -2.4, error: -3.83, score: 0.7, fall: -7.36, uneven: -0.19, rival: -2.87 };

const IN_ORDER = Object.values(WEIGHTS);

/** The features that {@link WEIGHTS} weigh, in their order. */
export function featuresOf(e: Evidence): readonly [number, number, number, number, number, number] {
  return [
    1,
    Math.log(Math.max(0.005, e.error) / 0.1),
    Math.min(1, Math.max(0, e.score)),
    Math.max(0, e.usualScore - e.score),
    Math.log(Math.max(2, e.uneven) / 2),
    Math.max(0, 0.15 - Math.max(0, e.score - e.rival)),
  ];
}

/** The probability that a match lies within 0.3 px of where the feature is. */
export function confidenceOf(evidence: Evidence): number {
  if (!evidence.converged || !(evidence.score > 0) || !Number.isFinite(evidence.error)) return 0;
  const features = featuresOf(evidence);
  let logit = 0;
  for (let k = 0; k < features.length; k++) logit += features[k] * IN_ORDER[k];
  return 1 / (1 + Math.exp(-logit));
}
