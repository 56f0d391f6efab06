import { apply, multiply, type Matrix3 } from '../geometry/matrix.js';
import { membersOf, type WholeScene } from '../scene/movers.js';
import { partsOf } from '../scene/scene-tracks.js';
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
  scene: WholeScene,
  mover: number,
  motion: Motion<'similarity'>,
  size: { readonly width: number; readonly height: number },
): Leaning | null {
  const { tracks } = scene;
  const matrices = motion.parts.map((_, f) => motionMatrix(motion, f));
  let [before, after, frames, told] = [0, 0, 0, false];
  for (const part of partsOf(tracks)) {
    if (!stands(matrices, part, size)) continue;
    const samples = new LeanSamples(tracks, membersOf(scene, mover, part), part, matrices, size);
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
export function leftOut(samples: LeanSamples, only: (member: number) => boolean = () => true) {
  const one = samples.leftOut(0, only);
  if (!pays(one)) return null;
  const other = samples.leftOut(1, only);
  return pays(other) ? [one, other] : null;
}

/** Whether what is off is enough less with a lean than without. */
export function pays(off: Pick<Leaning, 'with' | 'without'>): boolean {
  return off.with < PAYS * off.without && off.with < off.without - PAYS_PX;
}

type MovingScene = WholeScene & {
  readonly size: { readonly width: number; readonly height: number };
  readonly motions: readonly (Motion<'similarity'> | null)[];
};

const known = new WeakMap<MovingScene, Map<number, Leaning | null>>();

/** What has been worked out of how the movers of a scene lean, by their place in the list. */
export function knownLeanings(scene: MovingScene): Map<number, Leaning | null> {
  const own = known.get(scene) ?? new Map<number, Leaning | null>();
  known.set(scene, own);
  return own;
}

/** {@link leaningOf} a mover of a scene, by its place in the list: it is worked out once. */
export function leaningOfMover(scene: MovingScene, mover: number): Leaning | null {
  const own = knownLeanings(scene);
  let leaning = own.get(mover);
  if (leaning === undefined) {
    const motion = scene.motions[mover];
    leaning = motion ? leaningOf(scene, mover, motion, scene.size) : null;
    own.set(mover, leaning);
  }
  return leaning;
}

/** True where the camera stands throughout, and it is not too long to be looked at. */
export function stands(
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
