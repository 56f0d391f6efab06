import { neededZoom } from '../framing/framing.js';
import { invert } from '../geometry/matrix.js';
import { composeSimilarity, type SimilarityParts } from '../geometry/similarity.js';
import { cameraShake } from '../measure/camera-shake.js';
import { partsOf } from '../scene/scene-tracks.js';
import { smoothGaussian } from '../smooth/gaussian.js';
import type { AnalysedScene } from '../solve/analysed.js';
import { motionMatrix } from '../solve/motion.js';

/** What a clip is steadied towards until an editor says otherwise. */
export interface FirstGoal {
  readonly goal: 'still' | 'calm';
  /** Seconds of smoothing, for Calm. */
  readonly smoothing: number;
  /** Why, in one sentence. */
  readonly sentence: string;
  /** How much the camera shakes, in pixels. */
  readonly shake: number;
}

/** A camera whose slow course stays within what this zoom covers does not mean to move. */
const STANDS = 1.1;
/** Sigma of the smoothing that leaves the slow course, in seconds. */
const SLOW_S = 0.6;
const SMOOTHING_S = 1;
/** Less shake than this, in pixels, nobody sees. */
const UNSEEN = 0.05;

/**
 * Still where the camera stands, Calm where it means to move: told by the zoom that it would cost to take its slow course
 * out, shake aside.
 *
 * @returns null where nothing is known of the surroundings
 */
export function firstGoal({ tracks, size, motions, movers }: AnalysedScene, fps: number): FirstGoal | null {
  const motion = motions[0];
  if (!motion || movers.length === 0) return null;
  let most = 1;
  const parts = partsOf(tracks).map(({ from, to }) => {
    for (const slow of slowCourse(motion.parts.slice(from, to + 1), SLOW_S * fps)) {
      const m = composeSimilarity(slow, motion.pivot, motion.pixelAspect);
      most = Math.max(most, neededZoom(invert(m), { shiftX: 0, shiftY: 0 }, size, size));
    }
    return Array.from({ length: to - from + 1 }, (_, i) => motionMatrix(motion, from + i));
  });
  const shake = cameraShake(parts, size, fps);
  const name = movers[0].name;
  if (shake < UNSEEN && most <= STANDS) {
    const sentence = 'Still: nothing moves here, so there is no shake to take out.';
    return { goal: 'still', smoothing: SMOOTHING_S, shake, sentence };
  }
  const shakes = `and shakes by ${shake.toFixed(1)} px`;
  const { place } = movers[0];
  if (place?.aimed && most <= STANDS) {
    const slides = `it slides by ${place.slide.toFixed(1)} px, the rest of the place by ${place.others.toFixed(0)}`;
    const sentence = `Still: the camera travels, aimed at what is held (${slides}), ${shakes}.`;
    return { goal: 'still', smoothing: SMOOTHING_S, shake, sentence };
  }
  return most <= STANDS
    ? {
        ...{ goal: 'still', smoothing: SMOOTHING_S, shake },
        sentence: `Still: the camera stands ${shakes}. The ${name} are held.`,
      }
    : {
        ...{ goal: 'calm', smoothing: SMOOTHING_S, shake },
        sentence: `Calm: the camera means to move ${shakes}. Its course is kept, smoothed over ${SMOOTHING_S} s.`,
      };
}

/** The parts, smoothed, against their own mean. */
function slowCourse(parts: readonly SimilarityParts[], sigma: number): SimilarityParts[] {
  const of = (key: keyof SimilarityParts) => {
    const smooth = smoothGaussian(
      parts.map((p) => p[key]),
      sigma,
    );
    const mean = smooth.reduce((s, v) => s + v, 0) / smooth.length;
    return smooth.map((v) => v - mean);
  };
  const [x, y, rotation, logScale] = [of('x'), of('y'), of('rotation'), of('logScale')];
  return parts.map((_, f) => ({ x: x[f], y: y[f], rotation: rotation[f], logScale: logScale[f] }));
}
