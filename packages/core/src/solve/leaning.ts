import { apply, invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import type { WholeScene } from '../scene/movers.js';
import { partsOf, trackCount, trackEnd, type SceneTracks } from '../scene/scene-tracks.js';
import { LeanSamples, type Stretch } from './lean-samples.js';
import { motionMatrix, type Motion } from './motion.js';

/** How a mover leans: what a camera that turns about itself, or goes round something flat, does beyond a similarity. */
export interface Leaning {
  /** M of every frame, against the first frame of its part. */
  readonly matrices: readonly Matrix3[];
  /** How far tracks that it was not fitted to are off it, and off the similarity, in pixels: root mean square. */
  readonly with: number;
  readonly without: number;
}

/** Fewer tracks on any frame of a part tell too little of it. */
const FEWEST = 24;
/** ... and they have to lie over so much of the picture's width and height: it must not be told of what is far from all of them. */
const SPREAD = 0.45;
/** The camera stands where the picture's middle goes no farther than this part of its size. */
const STANDS = 0.3;
/** Parts of more frames than this are not looked at: it takes a second for each thousand. */
const LONGEST = 6000;
/** It pays where what is off by so much less, in parts and in pixels, on tracks that were left out. */
const [PAYS, PAYS_PX] = [0.88, 0.012];

/**
 * How a mover leans beyond its similarity, in each part of the clip in which the camera stands and where that pays: judged
 * by tracks that it was not fitted to, both halves in turn (cross-validation; Stone 1974).
 *
 * @param motion  the mover's, against the first frame of each part
 * @param size    of the picture
 * @returns null where it pays in no part. Cost: samples x rounds, three times.
 */
export function leaningOf(
  { tracks, moverOf }: WholeScene,
  mover: number,
  motion: Motion<'similarity'>,
  size: { readonly width: number; readonly height: number },
): Leaning | null {
  const matrices = motion.parts.map((_, f) => motionMatrix(motion, f));
  let [before, after, frames, told] = [0, 0, 0, false];
  for (const part of partsOf(tracks)) {
    if (!stands(matrices, part, size)) continue;
    const samples = new LeanSamples(tracks, membersOf(tracks, moverOf, mover, part), part, matrices, size);
    if (!samples.tell(FEWEST, SPREAD)) continue;
    const halves = leftOut(samples);
    if (!halves) continue;
    const leans = samples.inPixels(samples.fitted(null));
    leans.forEach((lean, i) => (matrices[part.from + i] = multiply(matrices[part.from + i], lean)));
    const length = leans.length;
    for (const h of halves) {
      before += (length / 2) * h.without ** 2;
      after += (length / 2) * h.with ** 2;
    }
    frames += length;
    told = true;
  }
  return told ? { matrices, without: Math.sqrt(before / frames), with: Math.sqrt(after / frames) } : null;
}

/** What is off on either half of the tracks when the other tells how it leans; null where that does not pay on both. */
function leftOut(samples: LeanSamples, only: (member: number) => boolean = () => true) {
  const halves = [0, 1].map((half) => samples.leftOut(half, only));
  return halves.every((h) => h.with < PAYS * h.without && h.with < h.without - PAYS_PX) ? halves : null;
}

type MovingScene = WholeScene & {
  readonly size: { readonly width: number; readonly height: number };
  readonly motions: readonly (Motion<'similarity'> | null)[];
};

const known = new WeakMap<MovingScene, Map<number, Leaning | null>>();

/** {@link leaningOf} a mover of a scene, by its place in the list: it is worked out once. */
export function leaningOfMover(scene: MovingScene, mover: number): Leaning | null {
  const own = known.get(scene) ?? new Map<number, Leaning | null>();
  known.set(scene, own);
  let leaning = own.get(mover);
  if (leaning === undefined) {
    const motion = scene.motions[mover];
    leaning = motion ? leaningOf(scene, mover, motion, scene.size) : null;
    own.set(mover, leaning);
  }
  return leaning;
}

/** What goes with a lean is within so many times what its own tracks are off, and within this at the least, in pixels. */
const [GOES_WITH, AT_LEAST] = [3, 0.5];
/** Told of by fewer, over less of the picture, it may be grown from ... */
const [FEWEST_SEEDS, SPREAD_SEEDS] = [16, 0.2];
/** ... in so many rounds at the most, as long as what is added is off no more than its own: so many times, and so much. */
const [GROWN, ALIKE, ALIKE_PX] = [10, 1.25, 0.03];
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
  { tracks, moverOf }: WholeScene,
  motion: Motion<'similarity'>,
  size: { readonly width: number; readonly height: number },
): SceneTracks | null {
  const matrices = motion.parts.map((_, f) => motionMatrix(motion, f));
  const straight = new Map<number, Matrix3>();
  for (const part of partsOf(tracks)) {
    const leans = stands(matrices, part, size) ? grownLean(tracks, moverOf, part, matrices, size) : null;
    leans?.forEach((lean, i) => {
      const m = matrices[part.from + i];
      straight.set(part.from + i, multiply(m, multiply(invert(lean), invert(m))));
    });
  }
  return straight.size > 0 ? moved(tracks, straight) : null;
}

function grownLean(
  tracks: SceneTracks,
  moverOf: ArrayLike<number>,
  part: Stretch,
  matrices: readonly Matrix3[],
  size: { readonly width: number; readonly height: number },
): Matrix3[] | null {
  const every: number[] = [];
  for (let k = 0; k < trackCount(tracks); k++)
    if (
      tracks.start[k] >= part.from &&
      tracks.start[k] <= part.to &&
      trackEnd(tracks, k) - tracks.start[k] >= SHORTEST
    )
      every.push(k);
  const seeds = new LeanSamples(tracks, membersOf(tracks, moverOf, 0, part), part, matrices, size);
  const all = new LeanSamples(tracks, every, part, matrices, size);
  let going = every.map((k) => moverOf[k] === 0);
  const first = going.filter(Boolean).length;
  const goes = (m: number) => going[m];
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

function moved(tracks: SceneTracks, by: ReadonlyMap<number, Matrix3>): SceneTracks {
  const [x, y] = [tracks.x.slice(), tracks.y.slice()];
  for (let k = 0; k < trackCount(tracks); k++) {
    const end = trackEnd(tracks, k);
    for (let f = tracks.start[k], at = tracks.first[k]; f < end; f++, at++) {
      const m = by.get(f);
      if (!m || tracks.confidence[at] === 0) continue;
      const p = apply(m, x[at], y[at]);
      [x[at], y[at]] = [p.x, p.y];
    }
  }
  return { ...tracks, x, y };
}

function stands(
  matrices: readonly Matrix3[],
  { from, to }: Stretch,
  size: { width: number; height: number },
): boolean {
  if (to - from > LONGEST) return false;
  const [x, y] = [size.width / 2, size.height / 2];
  for (let f = from; f <= to; f++) {
    const p = apply(matrices[f], x, y);
    if (Math.abs(p.x - x) > STANDS * size.width || Math.abs(p.y - y) > STANDS * size.height) return false;
  }
  return to > from;
}

function membersOf(
  tracks: SceneTracks,
  moverOf: ArrayLike<number>,
  mover: number,
  { from, to }: Stretch,
): number[] {
  const out: number[] = [];
  for (let k = 0; k < moverOf.length; k++)
    if (moverOf[k] === mover && tracks.start[k] >= from && tracks.start[k] <= to) out.push(k);
  return out;
}
