import { IDENTITY, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import { PLAIN_EYE } from '../picture/eye.js';
import type { Plane } from '../picture/plane.js';
import { withoutSamples } from '../track/measured.js';
import { EMPTY_TRACK, withSamples, type Track } from '../track/track.js';
import type { FrameSource } from '../track/frame-run.js';
import { trackSpots, type SpotToTrack, type TrackStep } from '../track/track-spots.js';
import type { SpotSettings } from '../track/spot-tracker.js';
import {
  normal,
  randomNumbers,
  speckledSurface,
  takePicture,
  type Spoiling,
  type Surface,
} from './footage.js';

/** Small made-up shots and runs of the tracker on them, for tests. */

export const WIDTH = 240;
export const HEIGHT = 180;
export const CENTRE = { x: WIDTH / 2, y: HEIGHT / 2 };

export const SETTINGS: SpotSettings = {
  patch: [12, 12],
  reach: [20, 16],
  eye: PLAIN_EYE,
  allow: 'similarity',
  refresh: 'auto',
  lowMatch: 'stop',
  minConfidence: 0.15,
};

/** A camera that shakes by 5 px, turned and zoomed by a little when `turn` is given (radians). */
export function shake(frames: number, seed: number, turn = 0): Matrix3[] {
  const random = randomNumbers(seed);
  return Array.from({ length: frames }, (_, i): Matrix3 => {
    if (i === 0) return IDENTITY;
    const parts = {
      x: 5 * normal(random),
      y: 4 * normal(random),
      rotation: turn * normal(random),
      logScale: (turn / 2) * normal(random),
    };
    return composeSimilarity(parts, CENTRE);
  });
}

export function film(
  motion: readonly Matrix3[],
  spoil: (frame: number) => Spoiling = () => ({}),
  surface: Surface = speckledSurface(7),
): Plane[] {
  return motion.map((m, i) => takePicture(surface, m, WIDTH, HEIGHT, { seed: 100 + i, ...spoil(i) }));
}

export function pinned(id: string, x: number, y: number, frame = 0): SpotToTrack {
  const track = withSamples(EMPTY_TRACK, [{ frame, x, y, confidence: 1, state: 'pinned' }]);
  return { id, name: id, mover: '', joins: [], settings: SETTINGS, track };
}

export function sourceOf(planes: readonly Plane[]): FrameSource {
  return { plane: (frame) => Promise.resolve(planes[frame]) };
}

export async function run(
  planes: readonly Plane[],
  spots: readonly SpotToTrack[],
  from: number,
  to: number,
): Promise<TrackStep[]> {
  const steps: TrackStep[] = [];
  for await (const step of trackSpots(sourceOf(planes), { spots, from, to })) steps.push(step);
  return steps;
}

/** What a run leaves of a spot's track: samples put in, withdrawn ones taken out unless they are to be looked at. */
export function trackAfter(steps: readonly TrackStep[], spot: SpotToTrack, withdraw = true): Track {
  let track = spot.track;
  for (const step of steps) {
    track = withSamples(
      track,
      step.samples.filter((s) => s.id === spot.id).map((s) => s.sample),
    );
    for (const { id, since, frame } of step.stopped) {
      if (withdraw && id === spot.id)
        track = withoutSamples(track, Math.min(since, frame), Math.max(since, frame));
    }
  }
  return track;
}

export const rms = (values: readonly number[]) =>
  Math.sqrt(values.reduce((s, v) => s + v * v, 0) / values.length);
