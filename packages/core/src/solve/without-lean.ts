import { apply, invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import { membersOf, type WholeScene } from '../scene/movers.js';
import { movedTracks, partsOf, trackCount, trackEnd, type SceneTracks } from '../scene/scene-tracks.js';
import { LeanSamples, type Stretch } from './lean-samples.js';
import { leftOut, pays, stands } from './leaning.js';
import { motionMatrix, type Motion } from './motion.js';

/** What goes with a lean is within so many times what its own tracks are off, and within this at the least, in pixels. */
const [GOES_WITH, AT_LEAST] = [3, 0.5];
/** Told of by fewer, over less of the picture, it may be grown from ... */
const [FEWEST_SEEDS, SPREAD_SEEDS] = [16, 0.2];
/** ... in so many rounds at the most, as long as what is added is off no more than its own: so many times, and so much. */
const [GROWN, ALIKE, ALIKE_PX] = [10, 1.25, 0.03];
/** So large a share of the tracks cannot be grown much. */
const NEARLY_ALL = 0.8;
/** ... and one of so many tells whether there is anything to be told. */
const A_PART = 3;
/** Tracks with fewer samples say nothing of themselves. */
const SHORTEST = 8;

/**
 * Tracks as they would be if the camera had not turned about itself, nor gone round what is flat: what moves as one by
 * similarities alone can be told then. Grown from what was taken for the surroundings, which a lean breaks apart.
 *
 * @param motion  of what was taken for them, against the first frame of each part
 * @returns null where there is no lean that more tracks go with, as well as those that it was told from
 */
export function withoutLean(
  scene: WholeScene,
  motion: Motion<'similarity'>,
  size: { readonly width: number; readonly height: number },
): SceneTracks | null {
  const { tracks } = scene;
  const matrices = motion.parts.map((_, f) => motionMatrix(motion, f));
  const straight = new Map<number, Matrix3>();
  for (const part of partsOf(tracks)) {
    const leans = stands(matrices, part, size) ? grownLean(scene, part, matrices, size) : null;
    leans?.forEach((lean, i) => {
      const m = matrices[part.from + i];
      straight.set(part.from + i, multiply(m, multiply(invert(lean), invert(m))));
    });
  }
  if (straight.size === 0) return null;
  return movedTracks(tracks, (frame, at) => {
    const m = straight.get(frame);
    return m ? apply(m, at.x, at.y) : at;
  });
}

/** The lean that the surroundings of a stretch have, told from all that goes with it; null where that is none. */
function grownLean(
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
  const seeds = new LeanSamples(tracks, membersOf(scene, 0, part), part, matrices, size);
  const all = new LeanSamples(tracks, every, part, matrices, size);
  let going = every.map((k) => moverOf[k] === 0);
  const first = going.filter(Boolean).length;
  const goes = (m: number) => going[m];
  // Where nearly all go with them already, and a lean explains nothing even of those that it was fitted to, there is none.
  const some = (m: number) => going[m] && m % A_PART === 0;
  const explains = () => pays({ with: all.off(all.fitted(some), some), without: all.off(null, some) });
  if (first > NEARLY_ALL * every.length && !explains()) return null;
  const seeded = all.fitted(goes);
  const own = all.off(seeded, goes);
  // Where what was taken for the surroundings is a small part of them, what most of all tracks do is the better guess.
  let leans = seeds.tell(FEWEST_SEEDS, SPREAD_SEEDS) ? seeded : all.fitted(null);
  for (let round = 0; round < GROWN; round++) {
    const limit = Math.max(AT_LEAST, GOES_WITH * own);
    const off = all.offEach(leans);
    const now = every.map((_, m) => off[m] < limit);
    if (now.every((yes, m) => yes === going[m])) break;
    going = now;
    leans = all.fitted(goes, leans);
  }
  const count = going.filter(Boolean).length;
  if (count < first || all.off(leans, goes) > ALIKE * own + ALIKE_PX || !leftOut(all, goes)) return null;
  return all.inPixels(leans);
}
