import { invert, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import { decomposeSimilarity, unwrapAngles, type SimilarityParts } from '../geometry/similarity.js';
import { partsOf } from '../scene/scene-tracks.js';
import type { AnalysedScene } from '../solve/analysed.js';
import { perspectiveOfMover, type Perspective } from '../solve/perspective.js';
import { homographyMotion, motionMatrix, type Motion } from '../solve/motion.js';

/** The motion of a mover of the whole picture, and its perspective where fitting it pays. */
export interface MoverMotion {
  /** As a similarity, and with its perspective; the same where it has none. */
  readonly similar: Motion<'similarity'>;
  readonly motion: Motion;
  readonly perspective: Perspective | null;
}

/**
 * The motion of a scene's mover, told against a frame; the parts of the clip that do not hold it stay as they are.
 *
 * @param mover     place in the scene's list
 * @param straight  true where the rows of the scene have been put straight: perspective is not fitted then
 * @returns null where nothing tells of it
 */
export function moverMotion(
  scene: AnalysedScene,
  mover: number,
  ref: number,
  straight = false,
): MoverMotion | null {
  const found = scene.motions[mover];
  if (!found) return null;
  const similar = againstRef(found, ref, scene);
  const perspective = straight ? null : perspectiveOfMover(scene, mover);
  return {
    similar,
    perspective,
    motion: perspective ? perspectiveAgainst(similar, perspective, scene) : similar,
  };
}

/** A motion told against another frame; the parts of the clip that do not hold it stay as they are. */
function againstRef(
  motion: Motion<'similarity'>,
  ref: number,
  { tracks }: Pick<AnalysedScene, 'tracks'>,
): Motion<'similarity'> {
  const { pivot, pixelAspect } = motion;
  const part = partsOf(tracks).find((p) => ref >= p.from && ref <= p.to);
  const cuts = tracks.cuts.length > 0 ? { cuts: [...tracks.cuts] } : {};
  if (!part || ref === part.from) return { ...motion, ref, ...cuts };
  const back = invert(motionMatrix(motion, ref));
  const inPart = motion.parts
    .slice(part.from, part.to + 1)
    .map((_, i) => multiply(motionMatrix(motion, part.from + i), back));
  const parts = partsAbout(inPart, pivot, pixelAspect, ref - part.from);
  return {
    ...motion,
    ...cuts,
    ref,
    parts: motion.parts.map((p, f) => parts[f - part.from] ?? p),
  };
}

function partsAbout(
  matrices: readonly Matrix3[],
  pivot: Point,
  pixelAspect: number,
  still: number,
): SimilarityParts[] {
  const parts = matrices.map((m) => decomposeSimilarity(m, pivot, pixelAspect));
  const turns = unwrapAngles(parts.map((p) => p.rotation));
  return parts.map((p, f) => ({ ...p, rotation: turns[f] - turns[still] }));
}

/** A motion with perspective, given against another frame; the parts that do not hold that one stay as they are. */
function perspectiveAgainst(
  motion: Motion<'similarity'>,
  { matrices }: Perspective,
  { tracks }: Pick<AnalysedScene, 'tracks'>,
): Motion<'homography'> {
  const { ref } = motion;
  const part = partsOf(tracks).find((p) => ref >= p.from && ref <= p.to);
  const back = invert(matrices[ref]);
  const within = (f: number) => part !== undefined && f >= part.from && f <= part.to;
  const told = matrices.map((m, f) => (within(f) ? multiply(m, back) : m));
  return homographyMotion(told, motion);
}
