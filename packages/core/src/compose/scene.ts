import type { Size } from '../framing/framing.js';
import { invert, multiply } from '../geometry/matrix.js';
import type { Warp } from '../geometry/warp.js';
import type { Rgb } from '../picture/colour.js';
import { pictureToDelivery, type Plan } from '../plan/plan.js';
import { asShotFrom, deliveredFrom } from '../plan/seen.js';
import { motionMatrix } from '../solve/motion.js';
import { donorStride, planBorrow, type BorrowPlan, type Donor } from '../warp/borrow.js';
import type { EdgeMode } from '../warp/edges.js';

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
}

/** What rides on the picture; no kind is built yet. */
export type SceneLayer = never;

/** What a document says of its pictures, besides their motion. */
export interface SceneLook {
  readonly edges: SceneEdges;
  /** From the lowest to the topmost. */
  readonly layers: readonly SceneLayer[];
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
  const { edges, layers } = look;
  return {
    size: plan.delivery,
    base: {
      frame,
      toSource: deliveredFrom(plan, frame),
      edges,
      donors: edges.mode === 'borrowed' ? borrowFor(plan, frame, from, to).donors : [],
    },
    layers,
  };
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
