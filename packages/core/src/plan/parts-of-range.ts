import type { SimilarityParts } from '../geometry/similarity.js';
import { smoothGaussian } from '../smooth/gaussian.js';
import type { Motion } from '../solve/motion.js';
import type { Amounts, Stage } from './goals.js';

/** What goals make their wanted motion of: the parts of the range, smoothed, and carried on beyond it. */

/** Width of a Gaussian at half its height over its sigma. */
const WIDTH_TO_SIGMA = 2 * Math.sqrt(2 * Math.LN2);

/** The frame itself, or the end of the range that is nearest to it. */
export function clampTo(frame: number, { from, to }: Stage): number {
  return Math.min(to, Math.max(from, frame));
}

/** The parts of the range between cuts, found or set by hand, each as a stage of its own. */
export function partsOfRange({ cuts = [] }: Motion, stage: Stage): Stage[] {
  const all = [...new Set([...cuts, ...(stage.cuts ?? [])])].sort((a, b) => a - b);
  const starts = [stage.from, ...all.filter((c) => c > stage.from && c <= stage.to)];
  return starts.map((from, i) => ({ ...stage, from, to: (starts[i + 1] ?? stage.to + 1) - 1 }));
}

/** The range's parts, each component smoothed on its own. */
export function smoothed({ parts }: Motion, smoothing: Amounts, { from, to, fps }: Stage): SimilarityParts[] {
  const range = parts.slice(from, to + 1);
  const smooth = (key: keyof SimilarityParts, seconds: number) =>
    smoothGaussian(
      range.map((p) => p[key]),
      (seconds * fps) / WIDTH_TO_SIGMA,
    );
  const [x, y] = [smooth('x', smoothing.x), smooth('y', smoothing.y)];
  const [rotation, logScale] = [smooth('rotation', smoothing.rotation), smooth('logScale', smoothing.scale)];
  return range.map((_, i) => ({ x: x[i], y: y[i], rotation: rotation[i], logScale: logScale[i] }));
}

/** A path over the range carried on beyond it: the difference from the measured motion is held. */
export function beyondRange(
  { parts }: Motion,
  range: readonly SimilarityParts[],
  stage: Stage,
): SimilarityParts[] {
  return parts.map((m, f) => {
    const end = clampTo(f, stage);
    const w = range[end - stage.from];
    if (end === f) return w;
    const e = parts[end];
    return {
      x: m.x + w.x - e.x,
      y: m.y + w.y - e.y,
      rotation: m.rotation + w.rotation - e.rotation,
      logScale: m.logScale + w.logScale - e.logScale,
    };
  });
}
