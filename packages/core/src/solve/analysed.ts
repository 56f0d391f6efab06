import { moversOf, type WholeScene } from '../scene/movers.js';
import type { SceneTracks } from '../scene/scene-tracks.js';
import type { Motion } from './motion.js';
import { sceneMotion } from './scene-motion.js';

/** A clip's pictures as a whole, with the motion of everything in them. */
export interface AnalysedScene extends WholeScene {
  readonly size: { readonly width: number; readonly height: number; readonly pixelAspect: number };
  /** Of each mover, against the first frame of every part; null of one that tells nothing. */
  readonly motions: readonly (Motion<'similarity'> | null)[];
}

/** Movers and their motions, from tracks. @param size  of the picture, in the tracks' pixels */
export function analyse(tracks: SceneTracks, size: AnalysedScene['size']): AnalysedScene {
  const scene = moversOf(tracks, size);
  const motions = scene.movers.map((_, m) => sceneMotion(scene, m, 0, size));
  return { ...scene, size, motions };
}
