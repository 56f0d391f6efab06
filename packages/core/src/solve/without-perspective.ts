import { apply, invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import { membersOf, type WholeScene } from '../scene/movers.js';
import { movedTracks, partsOf, trackCount, trackEnd, type SceneTracks } from '../scene/scene-tracks.js';
import { PerspectiveSamples, type Stretch } from './perspective-samples.js';
import { leftOut, pays, stands } from './perspective.js';
import { motionMatrix, type Motion } from './motion.js';

/** Largest error of a track that goes with a perspective: so many times that of the tracks it was fitted to, and these pixels. */
const [GOES_WITH, AT_LEAST] = [3, 0.5];
/** Fewest tracks, and least spread over the picture, that it may be grown from. */
const [FEWEST_SEEDS, SPREAD_SEEDS] = [16, 0.2];
/** Rounds of growing at the most; and how much the error may rise by what is added: so many times, and so many pixels. */
const [GROWN, ALIKE, ALIKE_PX] = [10, 1.25, 0.03];
/** A larger share of the tracks cannot be grown much. */
const NEARLY_ALL = 0.8;
/** One of so many tracks is enough to see whether perspective explains anything. */
const A_PART = 3;
/** Tracks with fewer samples are not used. */
const SHORTEST = 8;

/**
 * Tracks as they would be if the camera had not turned about itself, nor gone round what is flat: what moves as one by
 * similarities alone can be found then. Grown from what was taken for the surroundings, which perspective breaks apart.
 *
 * @param motion  of what was taken for them, against the first frame of each part
 * @returns null where no perspective fits more tracks as well as those that it was fitted to
 */
export function withoutPerspective(
  scene: WholeScene,
  motion: Motion<'similarity'>,
  size: { readonly width: number; readonly height: number },
): SceneTracks | null {
  const { tracks } = scene;
  const matrices = motion.parts.map((_, f) => motionMatrix(motion, f));
  const straight = new Map<number, Matrix3>();
  for (const part of partsOf(tracks)) {
    const homographies = stands(matrices, part, size) ? grownPerspective(scene, part, matrices, size) : null;
    homographies?.forEach((homography, i) => {
      const m = matrices[part.from + i];
      straight.set(part.from + i, multiply(m, multiply(invert(homography), invert(m))));
    });
  }
  if (straight.size === 0) return null;
  return movedTracks(tracks, (frame, at) => {
    const m = straight.get(frame);
    return m ? apply(m, at.x, at.y) : at;
  });
}

/** Perspective of the surroundings over a stretch, fitted to all tracks that go with it; null where there is none. */
function grownPerspective(
  scene: WholeScene,
  part: Stretch,
  matrices: readonly Matrix3[],
  size: { readonly width: number; readonly height: number },
): Matrix3[] | null {
  const { tracks, moverOf } = scene;
  const every: number[] = [];
  for (let k = 0; k < trackCount(tracks); k++)
    if (
      tracks.start[k] >= part.from &&
      tracks.start[k] <= part.to &&
      trackEnd(tracks, k) - tracks.start[k] >= SHORTEST
    )
      every.push(k);
  const seeds = new PerspectiveSamples(tracks, membersOf(scene, 0, part), part, matrices, size);
  const all = new PerspectiveSamples(tracks, every, part, matrices, size);
  let going = every.map((k) => moverOf[k] === 0);
  const first = going.filter(Boolean).length;
  const goes = (m: number) => going[m];
  // Where nearly all go with them already, and perspective explains nothing even of those that it was fitted to, there is none.
  const some = (m: number) => going[m] && m % A_PART === 0;
  const explains = () => pays({ with: all.off(all.fitted(some), some), without: all.off(null, some) });
  if (first > NEARLY_ALL * every.length && !explains()) return null;
  const seeded = all.fitted(goes);
  const own = all.off(seeded, goes);
  // Where what was taken for the surroundings is a small part of them, what most of all tracks do is the better guess.
  let homographies = seeds.tell(FEWEST_SEEDS, SPREAD_SEEDS) ? seeded : all.fitted(null);
  for (let round = 0; round < GROWN; round++) {
    const limit = Math.max(AT_LEAST, GOES_WITH * own);
    const off = all.offEach(homographies);
    const now = every.map((_, m) => off[m] < limit);
    if (now.every((yes, m) => yes === going[m])) break;
    going = now;
    homographies = all.fitted(goes, homographies);
  }
  const count = going.filter(Boolean).length;
  if (count < first || all.off(homographies, goes) > ALIKE * own + ALIKE_PX || !leftOut(all, goes))
    return null;
  return all.inPixels(homographies);
}
