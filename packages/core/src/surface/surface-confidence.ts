/** What is known of a surface found on a frame before it is judged. */
export interface SurfaceEvidence {
  /** Predicted standard deviation of the worst corner, in pixels. */
  readonly error: number;
  /** Correlation over what fits, and what it was while the surface was surely seen. */
  readonly score: number;
  readonly usualScore: number;
  /** The part of what is seen that fits. */
  readonly held: number;
  /** The part of the texture that is seen. */
  readonly seen: number;
  readonly converged: boolean;
}

/**
 * Weights of a logistic function of the evidence for "every corner within 0.5 px of truth". They are chosen, not fitted:
 * on the made-up panels of `npm run bench -- surface` every corner was within 0.5 px wherever it says 0.9 or more, so that
 * it errs on the side of doubt.
 */
const WEIGHTS = { constant: -1, error: -2.5, score: 3, fall: -6, held: 2, seen: 1 };
const IN_ORDER = Object.values(WEIGHTS);

/** The features that {@link WEIGHTS} weigh, in their order. */
export function surfaceFeatures(e: SurfaceEvidence): readonly number[] {
  return [
    1,
    Math.log(Math.max(0.005, e.error) / 0.1),
    Math.min(1, Math.max(0, e.score)),
    Math.max(0, e.usualScore - e.score),
    Math.log(Math.max(0.02, e.held)),
    Math.log(Math.max(0.02, e.seen)),
  ];
}

/** The probability that every corner of the shape lies within 0.5 px of where it is. */
export function surfaceConfidence(e: SurfaceEvidence): number {
  if (!e.converged || !(e.score > 0) || !Number.isFinite(e.error)) return 0;
  const logit = surfaceFeatures(e).reduce((sum, f, k) => sum + f * IN_ORDER[k], 0);
  return 1 / (1 + Math.exp(-logit));
}
