import type { Size } from '../framing/framing.js';
import { apply, invert, type Matrix3, type Point } from '../geometry/matrix.js';
import {
  matrixWarp,
  meshOver,
  NOWHERE,
  placeOf,
  type MeshWarp,
  type Place,
  type Warp,
} from '../geometry/warp.js';
import { flatSide, softWarp, unbent } from '../soft/soft-warps.js';
import { motionMatrix } from '../solve/motion.js';
import { throughBend } from './bend.js';
import { Rows, type RowsFacts } from '../solve/readout.js';
import { pictureInSource, pictureToDelivery, type Plan } from './plan.js';
import { meshThroughRows } from './rows.js';

const made = new WeakMap<RowsFacts, Rows>();

function rowsOfPlan({ rows: facts }: Plan): Rows | null {
  if (!facts) return null;
  let rows = made.get(facts);
  if (!rows) made.set(facts, (rows = new Rows(facts)));
  return rows;
}

/** Where a place of a frame, as shot, is seen in the steadied picture of the source's own frame. */
export function steadiedPlace(plan: Plan, frame: number, at: Point): Point {
  const { x, y } = rowsOfPlan(plan)?.straight(frame, at) ?? unbentPlace(plan, frame, at);
  return apply(pictureInSource(plan, frame), x, y);
}

/** Where a place of a frame, as shot, is seen in the delivered picture. */
function deliveredPlace(plan: Plan, frame: number, at: Point): Point {
  const { x, y } = rowsOfPlan(plan)?.straight(frame, at) ?? unbentPlace(plan, frame, at);
  return apply(pictureToDelivery(plan, frame), x, y);
}

/** Both ways between the delivered picture and a frame as shot. */
export interface WarpsBetween {
  /** Delivered pixels to the frame's. */
  readonly steady: Warp;
  /** The frame's pixels to delivered ones. */
  readonly back: Warp;
}

/** Pixels between the nodes of the mesh that stands for the way back. */
const BACK_CELL = 4;

/** Both ways where no matrix tells them - a soft surface is laid flat, rows are put straight; null where one does. */
export function warpsBetween(plan: Plan, frame: number): WarpsBetween | null {
  const steady = deliveredFrom(plan, frame);
  if (steady.kind === 'matrix') return null;
  const { width, height } = plan.size;
  const cells = (side: number) => Math.ceil(side / BACK_CELL);
  const back = meshOver(width, height, cells(width), cells(height), (x, y) => deliveredPlace(plan, frame, { x, y })); // prettier-ignore
  return { steady, back };
}

/** Where a place of a frame would be, had a soft surface that is laid flat moved as a whole alone. */
function unbentPlace({ bend, motion }: Plan, frame: number, at: Point): Point {
  const mesh = bend && softWarp(bend, flatSide(bend, motion.ref), frame);
  if (!mesh) return at;
  const flat = backOf(mesh).at(at.x, at.y);
  return flat.x === NOWHERE ? at : apply(motionMatrix(motion, frame), flat.x, flat.y);
}

const backs = new WeakMap<MeshWarp, Place>();

function backOf(mesh: MeshWarp): Place {
  let back = backs.get(mesh);
  if (!back) backs.set(mesh, (back = placeOf(unbent(mesh))));
  return back;
}

/**
 * Pixels of some picture to a frame's own, as shot.
 *
 * @param toStraight  to the frame's, had it been taken at once
 * @param size        of that picture
 */
export function asShotFrom(plan: Plan, frame: number, toStraight: Matrix3, size: Size): Warp {
  const rows = rowsOfPlan(plan);
  if (plan.bend) return throughBend(plan.bend, plan.motion, frame, toStraight);
  return rows ? meshThroughRows(rows, frame, toStraight, size) : matrixWarp(toStraight);
}

/** Delivered pixels to a frame's source pixels. */
export function deliveredFrom(plan: Plan, frame: number): Warp {
  return asShotFrom(plan, frame, invert(pictureToDelivery(plan, frame)), plan.delivery);
}
