import type { Size } from '../framing/framing.js';
import { invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import { before, between, type Warp } from '../geometry/warp.js';
import type { Rgb } from '../picture/rgb.js';
import { pictureToDelivery, type Plan } from '../plan/plan.js';
import { asShotFrom, deliveredFrom } from '../plan/plan-to-source.js';
import { motionMatrix } from '../solve/motion.js';
import { donorStride, planBorrow, type BorrowPlan, type Donor } from '../warp/borrow.js';
import type { EdgeMode } from '../warp/edges.js';
import { layerOn, type LookLayer } from './look-layer.js';
import { framesOfMattes, matteThrough, rastersOfMattes } from './matte.js';
import { STAYS, type Seen } from './seen.js';
import type { SceneLayer } from './layer.js';
import type { Motion } from '../solve/motion.js';

/** What is shown beyond the edges of a picture. */
export interface SceneEdges {
  readonly mode: EdgeMode;
  /** Red, green and blue: the colour, and what stands where nothing can be borrowed. */
  readonly colour: Rgb;
}

/** The picture of a frame, as it lies in a scene. */
export interface ScenePicture {
  readonly frame: number;
  /** Pixels of the scene to source pixels of the upright frame. */
  readonly toSource: Warp;
  readonly edges: SceneEdges;
  /** Other frames from which its edges are borrowed, the nearest first. */
  readonly donors: readonly Donor[];
  /** False where layers are to stand alone; true when left out. */
  readonly shown?: boolean;
}

/** What a document says of its pictures, besides their motion. */
export interface SceneLook {
  readonly edges: SceneEdges;
  /** From the lowest to the topmost. */
  readonly layers: readonly LookLayer[];
  /** False where the layers are to stand alone. */
  readonly base: boolean;
}

/** One delivered picture before it is drawn: what renderer and preview share. */
export interface Scene {
  readonly size: Size;
  readonly base: ScenePicture;
  /** From the lowest to the topmost. */
  readonly layers: readonly SceneLayer[];
}

/** The scene of a frame as it is delivered. @param from, to  frames that may be borrowed from, both included */
export function sceneOf(plan: Plan, look: SceneLook, frame: number, from: number, to: number): Scene {
  const { edges } = look;
  const toSource = deliveredFrom(plan, frame);
  const donors = edges.mode === 'borrowed' && look.base ? borrowFor(plan, frame, from, to).donors : [];
  const asFrame = (own: number) => deliveredFrom(plan, own);
  return {
    size: plan.delivery,
    base: { frame, toSource, edges, donors, shown: look.base },
    layers: layersOn(look, {
      ...{ frame, size: plan.delivery, asFrame, toSource, motions: plan.motions },
      flat: flatOn(plan, frame),
    }),
  };
}

/** Where what is laid flat lies in the delivered picture; null where nothing is. */
function flatOn(plan: Plan, frame: number): Seen['flat'] {
  const { bend, motion } = plan;
  if (!bend) return null;
  const toFlat = multiply(invert(motionMatrix(motion, frame)), invert(pictureToDelivery(plan, frame)));
  return { id: bend.id, ref: motion.ref, toFlat };
}

/** A frame as it was shot, with the layers given back to it. */
export function givenBack(
  size: Size,
  look: SceneLook,
  frame: number,
  motions: Readonly<Record<string, Motion>>,
): Scene {
  return {
    size: { width: size.width, height: size.height },
    base: { frame, toSource: STAYS, edges: look.edges, donors: [], shown: look.base },
    layers: layersOn(look, { frame, size, asFrame: () => STAYS, toSource: STAYS, motions }),
  };
}

function layersOn({ layers }: SceneLook, seen: Seen): SceneLayer[] {
  return layers.flatMap((layer) => layerOn(layer, seen) ?? []);
}

/**
 * A scene as it is drawn on other samples.
 *
 * @param size   of what is drawn
 * @param first  samples that are drawn to pixels of the scene
 * @param then   upright source pixels to samples of the pictures at hand; affine
 */
export function sceneThrough({ base, layers }: Scene, size: Size, first: Matrix3, then: Matrix3): Scene {
  const both = (warp: Warp) => between(then, warp, first);
  const moved = (layer: SceneLayer): SceneLayer => ({
    ...layer,
    // A layer's own places stay upright ones.
    toOwn: before(layer.toOwn, first),
    content:
      layer.content.kind === 'picture'
        ? { ...layer.content, toPicture: both(layer.content.toPicture) }
        : layer.content,
    mattes: layer.mattes.map((list) => list.map((m) => matteThrough(m, first, both))),
  });
  return {
    size: { width: size.width, height: size.height },
    base: {
      ...base,
      toSource: both(base.toSource),
      donors: base.donors.map((d) => ({ ...d, toSource: both(d.toSource) })),
    },
    layers: layers.map(moved),
  };
}

/** The frames, besides its own, whose pictures a scene is made of. */
export function framesOf({ base, layers }: Scene): number[] {
  return [...base.donors.map((d) => d.frame), ...layers.flatMap(framesOfLayer)];
}

/** The frames whose pictures a layer shows, or is told apart by. */
export function framesOfLayer({ content, mattes }: SceneLayer): number[] {
  return [...(content.kind === 'picture' ? [content.frame] : []), ...framesOfMattes(mattes)];
}

/** The keys of the rasters that a scene's layers show, or are limited by. */
export function rastersOf({ layers }: Scene): string[] {
  return layers.flatMap(({ content, mattes }) => [
    ...(content.kind === 'raster' ? [content.raster] : []),
    ...rastersOfMattes(mattes),
  ]);
}

/** From which frames of the range a frame's edges are filled; output pixels are delivered ones. */
export function borrowFor(plan: Plan, frame: number, from: number, to: number): BorrowPlan {
  const stride = donorStride(plan.size, to - from + 1);
  const candidates: number[] = [];
  for (let f = from; f <= to; f += stride) if (plan.motion.support[f] !== 'none') candidates.push(f);
  const back = invert(pictureToDelivery(plan, frame));
  const home = multiply(invert(motionMatrix(plan.motion, frame)), back);
  const lent = (f: number) =>
    asShotFrom(plan, f, multiply(motionMatrix(plan.motion, f), home), plan.delivery);
  return planBorrow(frame, deliveredFrom(plan, frame), lent, candidates, plan.size, plan.delivery);
}
