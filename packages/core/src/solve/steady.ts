import {
  breathingZoom,
  deliveryScale,
  deliveryWindow,
  fitZoom,
  framingMatrix,
  neededZoom,
  showsEdge,
  worstFrames,
  type FitZoom,
  type Framing,
  type Size,
} from '../framing/framing.js';
import {
  areaScale,
  chain,
  IDENTITY,
  multiply,
  scaling,
  translation,
  type Matrix3,
} from '../geometry/matrix.js';
import { donorStride, planBorrow, type BorrowPlan } from '../warp/borrow.js';
import { measureLeft, type LeftMeasure } from '../measure/left.js';
import { inOneGo, type Steps } from '../steps.js';
import type { Track } from '../track/track.js';
import { explainResiduals, type OddSpot } from './explain.js';
import type { GoalSettings, Stage } from './goals.js';
import { motionMatrix, type Motion, type Role } from './motion.js';
import { pathFor, pathSteps, type Path } from './path.js';
import { solveMotion } from './solve-motion.js';

export interface FramingRequest extends Framing {
  /**
   * `fit`: the smallest zoom at which no edge shows; `breathing`: the smallest that changes no faster than `rate`;
   * `none`: neither. The zoom by hand multiplies it, the shift holds for all.
   */
  readonly mode: 'fit' | 'breathing' | 'none';
  /** How fast the breathing zoom may change: a share of its size a second. */
  readonly rate: number;
  /** Size of the delivered picture in pixels; null: the source's. */
  readonly delivery: Size | null;
}

export interface SolveRequest {
  readonly frames: number;
  readonly pixelAspect: number;
  readonly tracks: readonly Track[];
  readonly names: readonly string[];
  readonly groups: readonly string[];
  readonly roles: readonly Role[];
  readonly ref: number;
}

export interface PlanRequest {
  readonly size: Size;
  /** Frames a second, the average where the rate varies: turns seconds into frames. */
  readonly fps: number;
  /** First and last frame that count, both included. */
  readonly from: number;
  readonly to: number;
  readonly goal: GoalSettings;
  readonly framing: FramingRequest;
}

export interface SteadyRequest extends SolveRequest, PlanRequest {}

/** From tracks to the picture: the one plan that preview, render and command line share. */
export interface Steady extends Path {
  readonly motion: Motion;
  /** The zoom that every frame would need to show no edge. */
  readonly needed: Float64Array;
  /** Over the range; its zoom is never below 1. */
  readonly fit: FitZoom;
  /** Frames that need the most zoom, worst first. */
  readonly worst: readonly number[];
  /** The zoom of every frame as it is applied; its fitted part is 1 where no zoom fits. */
  readonly zooms: Float64Array;
  readonly shiftX: number;
  readonly shiftY: number;
  readonly size: Size;
  readonly delivery: Size;
  /** The part of the frame that is delivered, about the middle, in source pixels. */
  readonly window: Size;
  /** Frames of the range on which an edge shows. */
  readonly edgeFrames: readonly number[];
  /** Source pixels for each delivered pixel where that is fewest, and the zoom up to which it stays at 1. */
  readonly punchIn: number;
  readonly losslessZoom: number;
  /** Of what is held: spots that do not move with it are told of in `odd` and do not count here. */
  readonly measure: LeftMeasure;
  /** Spots that do not move with the rest, the oddest first. */
  readonly odd: readonly OddSpot[];
}

/** Solves and plans. @returns null when there is nothing to solve from. Cost: linear in frames and samples. */
export function steady(request: SteadyRequest): Steady | null {
  const motion = solveMotion(request);
  return motion && planSteady(motion, request);
}

/** The plan for a motion that has been solved. */
export function planSteady(motion: Motion, request: SteadyRequest): Steady {
  return inOneGo(planSteps(motion, request));
}

/** The same in steps. */
export function* planSteps(motion: Motion, request: SteadyRequest): Steps<Steady> {
  const { size, from, to, framing, tracks } = request;
  const stage = stageOf(request);
  const path = yield* pathSteps(motion, request.goal, stage);
  const needed = neededBy(path.corrections, stage);
  const least = fitZoom(needed, from, to);
  const fit = { ...least, zoom: Math.max(1, least.zoom) };
  const zooms = zoomsOf(needed, fit, request);
  const edgeFrames: number[] = [];
  for (let i = from; i <= to; i++) if (showsEdge(needed[i], zooms[i])) edgeFrames.push(i);
  const delivery = framing.delivery ?? size;
  const perPixel = deliveryScale(size, delivery);
  let enlarged = 0;
  let punchIn = Infinity;
  for (let i = from; i <= to; i++) {
    const scale = areaScale(path.corrections[i]);
    enlarged = Math.max(enlarged, scale);
    punchIn = Math.min(punchIn, 1 / (perPixel * zooms[i] * scale));
  }
  const odd = explainResiduals(motion, request);
  const held = motion.rest.map((r, s) => (odd.some((o) => o.spot === s) ? null : r));
  return {
    motion,
    ...path,
    needed,
    fit,
    worst: worstFrames(needed, from, to),
    zooms,
    shiftX: framing.shiftX,
    shiftY: framing.shiftY,
    size: { width: size.width, height: size.height },
    delivery: { width: delivery.width, height: delivery.height },
    window: stage.window,
    edgeFrames,
    punchIn,
    losslessZoom: 1 / (perPixel * enlarged),
    measure: measureLeft({ ...motion, rest: held }, tracks, path, from, to),
    odd,
  };
}

function stageOf({ size, fps, from, to, framing }: PlanRequest): Stage {
  return { size, fps, from, to, shift: framing, window: deliveryWindow(size, framing.delivery ?? size) };
}

function neededBy(corrections: readonly Matrix3[], { shift, size, window }: Stage): Float64Array {
  return Float64Array.from(corrections, (s) => neededZoom(s, shift, size, window));
}

function zoomsOf(needed: Float64Array, fit: FitZoom, { framing, fps, from, to }: PlanRequest): Float64Array {
  switch (framing.mode) {
    case 'fit':
      return needed.map(() => framing.zoom * (Number.isFinite(fit.zoom) ? fit.zoom : 1));
    case 'breathing':
      return breathingZoom(needed, from, to, framing.rate / fps).map((z) => z * framing.zoom);
    case 'none':
      return needed.map(() => framing.zoom);
  }
}

/** S then F of a frame in the source's own frame: source pixels to where they are seen; as it is without a plan. */
export function pictureMatrix(plan: Steady | null, frame: number): Matrix3 {
  return plan ? multiply(framingIn(plan, frame), plan.corrections[frame]) : IDENTITY;
}

/** F of a frame in the source's own frame: steadied coordinates to where they are seen. */
export function framingIn({ shiftX, shiftY, zooms, size }: Steady, frame: number): Matrix3 {
  return framingMatrix({ zoom: zooms[frame], shiftX, shiftY }, size);
}

/** The same to delivered pixels. */
export function deliveredMatrix(plan: Steady, frame: number): Matrix3 {
  return multiply(framingOf(plan, frame), plan.corrections[frame]);
}

/** F of a frame: steadied coordinates to delivered pixels. */
export function framingOf({ shiftX, shiftY, zooms, size, delivery }: Steady, frame: number): Matrix3 {
  return framingMatrix({ zoom: zooms[frame], shiftX, shiftY }, size, delivery);
}

/** Delivered pixels to the source's own frame. */
export function deliveredToFrame({ size, delivery }: Steady): Matrix3 {
  const scale = 1 / deliveryScale(size, delivery);
  return chain(
    translation(size.width / 2, size.height / 2),
    scaling(scale),
    translation(-delivery.width / 2, -delivery.height / 2),
  );
}

/** The largest zoom that is applied over the range. */
export function mostZoom({ zooms }: Steady, from: number, to: number): number {
  return zooms.subarray(from, to + 1).reduce((a, b) => Math.max(a, b), 0);
}

/** From which frames of the range a frame's edges are filled; output pixels are delivered ones. */
export function borrowFor(plan: Steady, frame: number, from: number, to: number): BorrowPlan {
  const stride = donorStride(plan.size, to - from + 1);
  const candidates: number[] = [];
  for (let f = from; f <= to; f += stride) if (plan.motion.support[f] !== 'none') candidates.push(f);
  return planBorrow(
    frame,
    deliveredMatrix(plan, frame),
    (f) => motionMatrix(plan.motion, f),
    candidates,
    plan.size,
    plan.delivery,
  );
}

export interface TradePoint {
  readonly value: number;
  /** The fit zoom that it costs; Infinity where none fits. */
  readonly zoom: number;
}

/** Smoothing seconds and amounts that the price in zoom is told for. */
const SMOOTHINGS = [0, 0.1, 0.17, 0.25, 0.35, 0.5, 0.7, 1, 1.4, 2, 2.8, 4, 5.6, 8];
const SHARES = [0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1];

export interface Trade {
  readonly kind: 'smoothing' | 'share';
  readonly points: readonly TradePoint[];
}

/**
 * What less would cost: the fit zoom against the smoothing (Calm by the Gaussian), or against the share of the
 * present amounts (the other goals).
 */
export function tradeOff(motion: Motion, request: PlanRequest): Trade {
  return inOneGo(tradeSteps(motion, request));
}

/** The same point by point. */
export function* tradeSteps(motion: Motion, request: PlanRequest): Steps<Trade> {
  const { goal, from, to } = request;
  const stage = stageOf(request);
  const smoothing = goal.goal === 'calm' && goal.calm.method === 'gaussian' && goal.keys.length === 0;
  const points: TradePoint[] = [];
  for (const value of smoothing ? SMOOTHINGS : SHARES) {
    const changed = smoothing ? smoothedBy(goal, value) : lessOf(goal, value);
    const { corrections } = pathFor(motion, changed, stage);
    points.push({ value, zoom: Math.max(1, fitZoom(neededBy(corrections, stage), from, to).zoom) });
    yield;
  }
  return { kind: smoothing ? 'smoothing' : 'share', points };
}

function smoothedBy(goal: GoalSettings, s: number): GoalSettings {
  return { ...goal, calm: { ...goal.calm, smoothing: { x: s, y: s, rotation: s, scale: s } } };
}

/** The goal with a share of its amounts. For the optimal path the Gaussian stands in, which takes no time. */
function lessOf(goal: GoalSettings, k: number): GoalSettings {
  const less = <T extends { readonly amounts: GoalSettings['amounts'] }>(of: T): T => {
    const { x, y, rotation, scale } = of.amounts;
    return { ...of, amounts: { x: k * x, y: k * y, rotation: k * rotation, scale: k * scale } };
  };
  return {
    ...less(goal),
    calm: { ...goal.calm, method: 'gaussian' },
    keys: goal.keys.map((key) => less(key)),
  };
}
