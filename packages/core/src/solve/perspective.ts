import { apply, multiply, type Matrix3 } from '../geometry/matrix.js';
import { membersOf, type WholeScene } from '../scene/movers.js';
import { partsOf } from '../scene/scene-tracks.js';
import { PerspectiveSamples, type Stretch } from './perspective-samples.js';
import { motionMatrix, type Motion } from './motion.js';

/** Perspective of a mover: what a camera that turns about itself, or goes round something flat, adds to a similarity. */
export interface Perspective {
  /** M of every frame, against the first frame of its part. */
  readonly matrices: readonly Matrix3[];
  /** Error on tracks that it was not fitted to, with it and with the similarity alone, in pixels: root mean square. */
  readonly with: number;
  readonly without: number;
}

/** Fewer tracks on any frame of a part are too few to fit it. */
const FEWEST = 24;
/** They have to spread over so much of the picture's width and height: it must not be extrapolated far. */
const SPREAD = 0.45;
/** The camera stands where the picture's middle goes no farther than this part of its size. */
const STANDS = 0.3;
/** Parts of more frames than this are not looked at: it takes a second for each thousand. */
const LONGEST = 6000;
/** It pays where the error on tracks that were left out falls below this part, and by so many pixels. */
const [PAYS, PAYS_PX] = [0.88, 0.012];

/**
 * Perspective of a mover beyond its similarity, in each part of the clip in which the camera stands and where it pays: judged
 * by tracks that it was not fitted to, both halves in turn (cross-validation; Stone 1974).
 *
 * @param motion  the mover's, against the first frame of each part
 * @param size    of the picture
 * @returns null where it pays in no part. Cost: samples x rounds, three times.
 */
export function perspectiveOf(
  scene: WholeScene,
  mover: number,
  motion: Motion<'similarity'>,
  size: { readonly width: number; readonly height: number },
): Perspective | null {
  const { tracks } = scene;
  const matrices = motion.parts.map((_, f) => motionMatrix(motion, f));
  let [before, after, frames, told] = [0, 0, 0, false];
  for (const part of partsOf(tracks)) {
    if (!stands(matrices, part, size)) continue;
    const samples = new PerspectiveSamples(tracks, membersOf(scene, mover, part), part, matrices, size);
    if (!samples.tell(FEWEST, SPREAD)) continue;
    const halves = leftOut(samples);
    if (!halves) continue;
    const homographies = samples.inPixels(samples.fitted(null));
    homographies.forEach(
      (homography, i) => (matrices[part.from + i] = multiply(matrices[part.from + i], homography)),
    );
    const length = homographies.length;
    for (const h of halves) {
      before += (length / 2) * h.without ** 2;
      after += (length / 2) * h.with ** 2;
    }
    frames += length;
    told = true;
  }
  return told ? { matrices, without: Math.sqrt(before / frames), with: Math.sqrt(after / frames) } : null;
}

/** Error on either half of the tracks of what was fitted to the other; null where it does not pay on both. */
export function leftOut(samples: PerspectiveSamples, only: (member: number) => boolean = () => true) {
  const one = samples.leftOut(0, only);
  if (!pays(one)) return null;
  const other = samples.leftOut(1, only);
  return pays(other) ? [one, other] : null;
}

/** Whether the error is enough less with perspective than without. */
export function pays(off: Pick<Perspective, 'with' | 'without'>): boolean {
  return off.with < PAYS * off.without && off.with < off.without - PAYS_PX;
}

type MovingScene = WholeScene & {
  readonly size: { readonly width: number; readonly height: number };
  readonly motions: readonly (Motion<'similarity'> | null)[];
};

const known = new WeakMap<MovingScene, Map<number, Perspective | null>>();

/** Perspectives of a scene's movers that have been worked out, by the mover's index. */
export function knownPerspectives(scene: MovingScene): Map<number, Perspective | null> {
  const own = known.get(scene) ?? new Map<number, Perspective | null>();
  known.set(scene, own);
  return own;
}

/** {@link perspectiveOf} a mover of a scene, by its index: it is worked out once. */
export function perspectiveOfMover(scene: MovingScene, mover: number): Perspective | null {
  const own = knownPerspectives(scene);
  let perspective = own.get(mover);
  if (perspective === undefined) {
    const motion = scene.motions[mover];
    perspective = motion ? perspectiveOf(scene, mover, motion, scene.size) : null;
    own.set(mover, perspective);
  }
  return perspective;
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
