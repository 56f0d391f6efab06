import type { Size } from '../framing/framing.js';
import { apply, invert, type Matrix3, type Point } from '../geometry/matrix.js';
import {
  matrixWarp,
  meshOver,
  NOWHERE,
  evaluatorOf,
  warpMatrix,
  type MeshWarp,
  type WarpEvaluator,
  type Warp,
} from '../geometry/warp.js';
import { flatSide, softWarp, unbent } from '../soft/soft-warps.js';
import { motionMatrix } from '../solve/motion.js';
import { throughBend } from './soft/bend.js';
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
export function deliveredPlace(plan: Plan, frame: number, at: Point): Point {
  const { x, y } = rowsOfPlan(plan)?.straight(frame, at) ?? unbentPlace(plan, frame, at);
  return apply(pictureToDelivery(plan, frame), x, y);
}

/** Where evenly spaced places of a frame lie when it is steadied, where no matrix tells that. */
export interface MotionMesh {
  /** Cells across and down: there is a place more each way. */
  readonly columns: number;
  readonly rows: number;
  /** x and y of the steadied places, before framing, row by row. */
  readonly to: readonly number[];
}

/** Straight between its places such a mesh is off by no more than this, in pixels. */
const MESH_OFF = 0.05;
/** Pixels a cell, at the least. */
const LEAST_CELL = 6;

/** What is done to a frame before it is framed, as a mesh over the picture as shot; null where the correction tells it. */
export function steadiedMesh(plan: Plan, frame: number): MotionMesh | null {
  if (warpMatrix(deliveredFrom(plan, frame))) return null;
  const { width, height } = plan.size;
  const placeAt = (x: number, y: number): Point => {
    const { x: u, y: v } = rowsOfPlan(plan)?.straight(frame, { x, y }) ?? unbentPlace(plan, frame, { x, y });
    return apply(plan.corrections[frame], u, v);
  };
  let [columns, rows] = [4, 8];
  // Each way by itself: rows that are put straight need many down and few across.
  const bends = (across: boolean) => {
    for (let j = 0; j <= 2 * rows; j++)
      for (let i = 0; i <= 2 * columns; i++) {
        const odd = across ? i % 2 === 1 : j % 2 === 1;
        if (!odd) continue;
        const at = (k: number, l: number) => placeAt((k * width) / (2 * columns), (l * height) / (2 * rows));
        const [a, b] = across ? [at(i - 1, j), at(i + 1, j)] : [at(i, j - 1), at(i, j + 1)];
        const own = at(i, j);
        if (Math.hypot((a.x + b.x) / 2 - own.x, (a.y + b.y) / 2 - own.y) > MESH_OFF / 3) return true;
      }
    return false;
  };
  for (;;) {
    const wider = width / columns > LEAST_CELL && bends(true);
    const higher = height / rows > LEAST_CELL && bends(false);
    if (!wider && !higher) break;
    if (wider) columns *= 2;
    if (higher) rows *= 2;
  }
  const to: number[] = [];
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= columns; i++) {
      const { x, y } = placeAt((i * width) / columns, (j * height) / rows);
      to.push(x, y);
    }
  return { columns, rows, to };
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
  if (warpMatrix(steady)) return null;
  const { width, height } = plan.size;
  const cells = (side: number) => Math.ceil(side / BACK_CELL);
  const back = meshOver(width, height, cells(width), cells(height), (x, y) =>
    deliveredPlace(plan, frame, { x, y }),
  );
  return { steady, back };
}

/** Where a place of a frame would be, had a soft surface that is laid flat moved as a whole alone. */
function unbentPlace({ bend, motion }: Plan, frame: number, at: Point): Point {
  const mesh = bend && softWarp(bend, flatSide(bend, motion.ref), frame);
  if (!mesh) return at;
  const flat = backOf(mesh).at(at.x, at.y);
  return flat.x === NOWHERE ? at : apply(motionMatrix(motion, frame), flat.x, flat.y);
}

const backs = new WeakMap<MeshWarp, WarpEvaluator>();

function backOf(mesh: MeshWarp): WarpEvaluator {
  let back = backs.get(mesh);
  if (!back) backs.set(mesh, (back = evaluatorOf(unbent(mesh))));
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
