import { partedAtFades, type Fade } from '../scene/fades.js';
import { moversOf, type WholeScene } from '../scene/movers.js';
import type { SceneTracks } from '../scene/scene-tracks.js';
import { Remembered } from '../remembered.js';
import type { Motion } from './motion.js';
import { findReadout, Rows, straightTracks, type PictureSize, type Readout } from './readout.js';
import { sceneMotion } from './scene-motion.js';
import { withoutPerspective } from './without-perspective.js';

/** A clip's pictures as a whole, with the motion of everything in them. */
export interface AnalysedScene extends WholeScene {
  readonly size: PictureSize;
  /** Of each mover, against the first frame of every part; null of one that tells nothing. */
  readonly motions: readonly (Motion<'similarity'> | null)[];
  /** How the pictures are read out, row by row; null where they are taken at once, or nothing tells. */
  readonly readout: Readout | null;
  /** Where one picture passes into another; each is a cut too. */
  readonly fades: readonly Fade[];
}

/** Movers and their motions, from tracks. @param size  of the picture, in the tracks' pixels */
export function analyse(followed: SceneTracks, size: PictureSize): AnalysedScene {
  const { tracks, fades } = partedAtFades(followed, size);
  const scene = toldApart(tracks, size);
  const motions = scene.movers.map((_, m) => sceneMotion(scene, m, 0, size));
  const readout = motions[0] ? findReadout(scene, motions[0], size) : null;
  return { ...scene, size, motions, readout, fades };
}

/** The least share of the surroundings where a camera that turns makes one thing of them. */
const WHOLE = 0.5;

/** Movers by similarities; once more without the perspective of a camera that turns, where there is any: it breaks them apart. */
function toldApart(tracks: SceneTracks, size: PictureSize): WholeScene {
  const scene = moversOf(tracks, size);
  const motion = scene.movers.length > 0 ? sceneMotion(scene, 0, 0, size) : null;
  const straight = motion && withoutPerspective(scene, motion, size);
  if (!straight) return scene;
  const turned = { ...moversOf(straight, size), tracks };
  if (!holdsTheSame(scene, turned)) return scene;
  // What shifts by depth looks like perspective, too: a camera that only turns makes one thing of most of the picture.
  const isPlace = scene.movers[0].place !== undefined;
  return isPlace && turned.movers[0].share < WHOLE ? scene : turned;
}

/** So much of what is held has to be held still: what breaks apart by perspective grows together without it. */
const SAME = 0.6;

function holdsTheSame({ moverOf: before }: WholeScene, { moverOf: after }: WholeScene): boolean {
  let [both, all] = [0, 0];
  before.forEach((m, k) => {
    if (m !== 0) return;
    all++;
    if (after[k] === 0) both++;
  });
  return both >= SAME * all;
}

const rowsKnown = new WeakMap<AnalysedScene, Rows>();

/** How the rows of a scene's pictures lie, told from the surroundings; null where they lie straight. */
export function rowsOf(scene: AnalysedScene): Rows | null {
  const { readout, motions, size, tracks } = scene;
  if (!readout || !motions[0]) return null;
  const known = rowsKnown.get(scene);
  if (known) return known;
  const cuts = [...tracks.cuts];
  const { share } = readout;
  let rows = new Rows({ camera: motions[0], share, size, cuts });
  // The motion that was solved from sheared pictures is nearly that of straight ones: twice more is enough.
  for (let round = 0; round < 2; round++) {
    const straight: AnalysedScene = { ...scene, tracks: straightTracks(tracks, rows) };
    rows = new Rows({ camera: sceneMotion(straight, 0, 0, size) ?? motions[0], share, size, cuts });
  }
  rowsKnown.set(scene, rows);
  return rows;
}

const straightened = new Remembered<AnalysedScene, Rows, AnalysedScene>();

/** A scene with its rows put straight, all motions solved anew; the last answer for every scene is kept. */
export function straightScene(scene: AnalysedScene, rows: Rows): AnalysedScene {
  return straightened.get(scene, rows, () => {
    const tracks = straightTracks(scene.tracks, rows);
    const motions = scene.motions.map(
      (motion, m) => motion && sceneMotion({ ...scene, tracks }, m, motion.ref, scene.size),
    );
    return { ...scene, tracks, motions };
  });
}
