import {
  fitZoom,
  framingMatrix,
  neededZoom,
  showsEdge,
  type FitZoom,
  type Framing,
  type Size,
} from '../framing/framing.js';
import { IDENTITY, multiply, type Matrix3 } from '../geometry/matrix.js';
import type { Components } from '../geometry/similarity.js';
import { measureStill, type StillMeasure } from '../measure/still.js';
import type { Track } from '../track/track.js';
import { solveMotion, stillCorrection, type Motion } from './motion.js';

export interface SteadyRequest {
  readonly size: Size;
  readonly frames: number;
  readonly pixelAspect: number;
  readonly tracks: readonly Track[];
  readonly ref: number;
  /** First and last frame that count, both included. */
  readonly from: number;
  readonly to: number;
  readonly use: Components;
  /** `fit`: the smallest zoom at which no edge shows; `hand`: the zoom given. The shift holds for both. */
  readonly framing: Framing & { readonly mode: 'fit' | 'hand' };
}

/** From tracks to the picture: the one plan that preview, render and command line share. */
export interface Steady {
  readonly motion: Motion;
  /** S of every frame. */
  readonly corrections: readonly Matrix3[];
  /** The zoom that every frame would need to show no edge. */
  readonly needed: Float64Array;
  /** Over the range; its zoom is never below 1. */
  readonly fit: FitZoom;
  /** As it is applied; its zoom is 1 where no zoom fits. */
  readonly framing: Framing;
  /** Frames of the range on which an edge shows. */
  readonly edgeFrames: readonly number[];
  readonly measure: StillMeasure;
}

/** Still, over the chosen components. @returns null when there is nothing to solve from. Cost: linear in frames. */
export function steady(request: SteadyRequest): Steady | null {
  const { size, frames, tracks, ref, from, to, use, framing } = request;
  const motion = solveMotion({ frames, ref, tracks, pixelAspect: request.pixelAspect });
  if (!motion) return null;
  const corrections = Array.from({ length: frames }, (_, i) => stillCorrection(motion, i, use));
  const needed = Float64Array.from(corrections, (s) => neededZoom(s, framing, size));
  const least = fitZoom(needed, from, to);
  const fit = { ...least, zoom: Math.max(1, least.zoom) };
  const zoom = framing.mode === 'hand' ? framing.zoom : Number.isFinite(fit.zoom) ? fit.zoom : 1;
  const edgeFrames: number[] = [];
  for (let i = from; i <= to; i++) if (showsEdge(needed[i], zoom)) edgeFrames.push(i);
  return {
    motion,
    corrections,
    needed,
    fit,
    framing: { zoom, shiftX: framing.shiftX, shiftY: framing.shiftY },
    edgeFrames,
    measure: measureStill(tracks, (i) => corrections[i], from, to),
  };
}

/** F S of a frame: source pixels to output pixels; the source as it is where there is no plan. */
export function pictureMatrix(plan: Steady | null, frame: number, size: Size): Matrix3 {
  if (!plan) return IDENTITY;
  return multiply(framingMatrix(plan.framing, size), plan.corrections[frame]);
}
