import { closedOn, cornersAt, isOpen, type Area } from '../geometry/area.js';
import { apply, invert, multiply } from '../geometry/matrix.js';
import { trackCount, trackEnd, type SceneTracks } from '../scene/scene-tracks.js';
import { Remembered } from '../remembered.js';
import type { AnalysedScene } from './analysed.js';
import { motionMatrix } from './motion.js';
import { sceneMotion } from './scene-motion.js';

/** An area that may ride on one of the scene's movers. */
export interface RidingArea extends Area {
  /** The mover's id; null for an area that stays where it was drawn. */
  readonly rides: string | null;
}

/**
 * Areas as shapes of frames alone: one that rides gets a key on every frame, where the motion of what it rides on carries
 * its keys. One whose mover is not known stays where it was drawn.
 */
export function placedAreas(areas: readonly RidingArea[], scene: AnalysedScene | null): Area[] {
  return areas.map(({ kind, smooth, rides, keys }) => {
    const mover = scene && rides !== null ? scene.movers.findIndex((m) => m.id === rides) : -1;
    const motion = scene?.motions[mover];
    if (!scene || !motion) return { kind, smooth, keys };
    const carry = (from: number, to: number, at: { x: number; y: number }) => {
      const m = multiply(motionMatrix(motion, to), invert(motionMatrix(motion, from)));
      return apply(m, at.x, at.y);
    };
    return {
      ...{ kind, smooth },
      keys: Array.from({ length: scene.tracks.frames }, (_, frame) => ({
        frame,
        shape: cornersAt({ keys }, frame, carry).map(({ x, y }) => [x, y] as const),
      })),
    };
  });
}

/** Tracks without what areas close: there they count as not seen. */
export function openTracks(tracks: SceneTracks, areas: readonly Area[]): SceneTracks {
  if (areas.length === 0) return tracks;
  const confidence = tracks.confidence.slice();
  const closed = Array.from({ length: tracks.frames }, (_, f) => closedOn(areas, f));
  for (let k = 0; k < trackCount(tracks); k++) {
    const end = trackEnd(tracks, k);
    for (let f = tracks.start[k], at = tracks.first[k]; f < end; f++, at++)
      if (!isOpen(closed[f], { x: tracks.x[at], y: tracks.y[at] })) confidence[at] = 0;
  }
  return { ...tracks, confidence };
}

/** How many samples each mover has. */
function samplesOf({ first, confidence }: SceneTracks, { moverOf, movers }: AnalysedScene): Float64Array {
  const counts = new Float64Array(movers.length);
  moverOf.forEach((m, k) => {
    if (m < 0) return;
    for (let at = first[k]; at < first[k + 1]; at++) if (confidence[at] > 0) counts[m]++;
  });
  return counts;
}

/** A mover of which less than this share of its samples is left tells nothing. */
const LEAST_LEFT = 0.02;

const opened = new Remembered<AnalysedScene, string, AnalysedScene>();

/**
 * A scene without what areas close: samples inside ignore areas, and outside focus areas, count as not seen, and every
 * mover's motion is solved anew from the others. What moves with what stays as it was found. The last answer of every
 * scene is kept.
 */
export function openScene(scene: AnalysedScene, areas: readonly Area[]): AnalysedScene {
  if (areas.length === 0) return scene;
  return opened.get(scene, JSON.stringify(areas), () => without(scene, areas));
}

function without(scene: AnalysedScene, areas: readonly Area[]): AnalysedScene {
  const tracks = openTracks(scene.tracks, areas);
  const rest = { ...scene, tracks };
  const [all, left] = [scene.tracks, tracks].map((t) => samplesOf(t, scene));
  const motions = scene.motions.map((motion, m) => {
    if (motion && left[m] === all[m]) return motion;
    return motion && left[m] > LEAST_LEFT * all[m] ? sceneMotion(rest, m, motion.ref, scene.size) : null;
  });
  return { ...rest, motions };
}
