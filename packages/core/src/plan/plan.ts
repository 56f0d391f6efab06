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
import { measureShakeLeft, type ShakeLeft } from '../measure/shake-left.js';
import { explainResiduals, type NamedSpot, type OddSpot } from '../solve/explain.js';
import type { Motion } from '../solve/motion.js';
import type { AnalysedScene } from '../solve/analysed.js';
import type { SolveSpot } from '../solve/solve-motion.js';
import type { SolveSurface } from '../solve/surface-motion.js';
import { inOneGo, type Steps } from '../steps.js';
import type { Perspective } from '../solve/perspective.js';
import type { GoalSettings, Stage } from './goals.js';
import type { RowsFacts } from '../solve/readout.js';
import type { Regroup } from '../solve/regroup.js';
import type { RidingArea } from '../solve/areas.js';
import { heldMotion, type HeldMotion, type Rider } from './held-motion.js';
import { pathSteps, type Path } from './path.js';
import { neededByBend } from './soft/bend.js';
import { neededByRows } from './rows.js';
import type { SolveSoft } from '../solve/soft/soft-motion.js';

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
  /** The trackers of what is held. */
  readonly spots: readonly PlanSpot[];
  readonly ref: number;
  /** The id of the mover or surface that is held; empty for what most of the spots tell. */
  readonly held: string;
  /** The id of the scene's mover that stands in where spots do not tell; null for the surroundings. */
  readonly sceneMover?: string | null;
  /** What of the picture is not measured. */
  readonly areas?: readonly RidingArea[];
  /** Puts the rows of the pictures straight, where it is known how they lie. */
  readonly rowByRow?: boolean;
  /** What the editor says of which features go together. */
  readonly regroups?: readonly Regroup[];
  /** Flat surfaces that are held. */
  readonly surfaces?: readonly SolveSurface[];
  /** A soft surface that is held. */
  readonly soft?: SolveSoft | null;
  /** Movers that layers ride on, each with the spots that tell of it. */
  readonly riders?: readonly Rider[];
}

export type PlanSpot = SolveSpot & NamedSpot;

export interface PlanRequest {
  readonly size: Size;
  /** Frames a second, the average where the rate varies: turns seconds into frames. */
  readonly fps: number;
  /** First and last frame that count, both included. */
  readonly from: number;
  readonly to: number;
  readonly goal: GoalSettings;
  /** First frames of parts that the editor wants smoothed by themselves. */
  readonly cuts?: readonly number[];
  readonly framing: FramingRequest;
}

export interface ShotRequest extends SolveRequest, PlanRequest {}

/** From what was measured to the picture: the one plan that preview, render and command line share. */
export interface Plan extends Path {
  /** What it was made of: the spots solved from, as they were then. */
  readonly of: readonly NamedSpot[];
  /** The id of what is held, under which its motion is found; empty for what most of the spots tell. */
  readonly held: string;
  /** The id of the scene's mover that it is; null where that is not known. */
  readonly mover: string | null;
  /** How the rows of the pictures lie, where they are put straight; null else. */
  readonly rows: RowsFacts | null;
  /** The soft surface that is laid flat; null where none is. */
  readonly bend: SolveSoft | null;
  /** Error on features that were left out of the fit, with and without the perspective that is taken out; null where none is. */
  readonly perspective: Pick<Perspective, 'with' | 'without'> | null;
  /** The motions that were solved, by the id of what moves. */
  readonly motions: Readonly<Record<string, Motion>>;
  /** That of what is held. */
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
  readonly measure: ShakeLeft;
  /** Spots that do not move with the rest, the oddest first. */
  readonly odd: readonly OddSpot[];
}

/** Solves and plans. @returns null when there is nothing to solve from. Cost: linear in frames and samples. */
export function planFor(request: ShotRequest, scene: AnalysedScene | null = null): Plan | null {
  const held = heldMotion(request, scene, request.sceneMover ?? null);
  return held && planFrom(held.motion, request, held);
}

/** The plan for a motion that has been solved. @param of  what else is known of what is held */
export function planFrom(
  motion: Motion,
  request: ShotRequest,
  of: Partial<Omit<HeldMotion, 'motion'>> = {},
): Plan {
  return inOneGo(planSteps(motion, request, of));
}

/** The same in steps. */
export function* planSteps(
  motion: Motion,
  request: ShotRequest,
  {
    witnesses = [],
    mover = null,
    rows = null,
    bend = null,
    perspective = null,
    riders = {},
  }: Partial<Omit<HeldMotion, 'motion'>> = {},
): Steps<Plan> {
  const { size, from, to, framing, held } = request;
  // Those of which one sample alone is known were not solved from.
  const spots = request.spots.filter((s) => motion.byId[s.id]);
  const stage = stageOf(request);
  const path = yield* pathSteps(motion, request.goal, stage);
  const needed = rows
    ? neededByRows(path.corrections, rows, stage)
    : bend
      ? neededByBend(path.corrections, bend, motion, stage)
      : neededBy(path.corrections, stage);
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
  const odd = explainResiduals(motion, spots);
  const together = spots.flatMap(({ id, track }) => {
    const { rest } = motion.byId[id];
    return rest && !odd.some((o) => o.spot === id) ? [{ rest, track }] : [];
  });
  return {
    of: spots.map(({ id, name, mover }) => ({ id, name, mover })),
    held,
    mover,
    rows: rows && rows.facts,
    bend,
    perspective: perspective && { with: perspective.with, without: perspective.without },
    motions: { ...riders, ...(mover !== null && { [mover]: motion }), [held]: motion },
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
    measure: measureShakeLeft(motion, together.length > 0 ? together : witnesses, path, from, to),
    odd,
  };
}

/** What goals and zooms are worked out for. */
export function stageOf({ size, fps, from, to, cuts, framing }: PlanRequest): Stage {
  const window = deliveryWindow(size, framing.delivery ?? size);
  return { size, fps, from, to, cuts, shift: framing, window };
}

/** The zoom that every frame would need, by the corrections. */
export function neededBy(corrections: readonly Matrix3[], { shift, size, window }: Stage): Float64Array {
  return Float64Array.from(corrections, (s) => neededZoom(s, shift, size, window));
}

function zoomsOf(needed: Float64Array, fit: FitZoom, { framing, fps, from, to }: PlanRequest): Float64Array {
  const own: Readonly<Record<typeof framing.mode, () => Float64Array>> = {
    fit: () => needed.map(() => (Number.isFinite(fit.zoom) ? fit.zoom : 1)),
    breathing: () => breathingZoom(needed, from, to, framing.rate / fps),
    none: () => needed.map(() => 1),
  };
  return own[framing.mode]().map((zoom) => zoom * framing.zoom);
}

/** S then F of a frame in the source's own frame: source pixels to where they are seen; as it is without a plan. */
export function pictureInSource(plan: Plan | null, frame: number): Matrix3 {
  return plan ? multiply(framingInSource(plan, frame), plan.corrections[frame]) : IDENTITY;
}

/** F of a frame in the source's own frame: steadied coordinates to where they are seen. */
export function framingInSource({ shiftX, shiftY, zooms, size }: Plan, frame: number): Matrix3 {
  return framingMatrix({ zoom: zooms[frame], shiftX, shiftY }, size);
}

/** S then F of a frame: source pixels to delivered ones. */
export function pictureToDelivery(plan: Plan, frame: number): Matrix3 {
  return multiply(framingToDelivery(plan, frame), plan.corrections[frame]);
}

/** F of a frame: steadied coordinates to delivered pixels. */
export function framingToDelivery({ shiftX, shiftY, zooms, size, delivery }: Plan, frame: number): Matrix3 {
  return framingMatrix({ zoom: zooms[frame], shiftX, shiftY }, size, delivery);
}

/** Delivered pixels to the source's own frame. */
export function deliveryInSource({ size, delivery }: Plan): Matrix3 {
  const scale = 1 / deliveryScale(size, delivery);
  return chain(
    translation(size.width / 2, size.height / 2),
    scaling(scale),
    translation(-delivery.width / 2, -delivery.height / 2),
  );
}

/** The largest zoom that is applied over the range. */
export function mostZoom({ zooms }: Plan, from: number, to: number): number {
  return zooms.subarray(from, to + 1).reduce((a, b) => Math.max(a, b), 0);
}
