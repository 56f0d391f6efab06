import { polygonCentroid, polygonHull } from 'd3-polygon';
import { contours } from 'd3-contour';
import type { Point } from '@lurn/core/geometry';
import { boxMean } from '@lurn/core/picture';
import { sampleIndex } from '@lurn/core/scene';
import { moverOn, type AnalysedScene, type MoverMasks } from '@lurn/core/solve';

/** Cells of the tint, across the picture. */
const COLUMNS = 48;
/** A place belongs to the mover of the nearest track within this part of the picture's width. */
const NEAR = 0.07;

interface Seen extends Point {
  readonly mover: number;
}

const seenOn = ({ tracks, moverOf }: AnalysedScene, frame: number): Seen[] => {
  const seen: Seen[] = [];
  for (let k = 0; k < moverOf.length; k++) {
    const at = moverOf[k] < 0 ? -1 : sampleIndex(tracks, k, frame);
    if (at >= 0) seen.push({ x: tracks.x[at], y: tracks.y[at], mover: moverOf[k] });
  }
  return seen;
};

function nearest(seen: readonly Seen[], x: number, y: number, within: number): Seen | null {
  let best: Seen | null = null;
  let least = within * within;
  for (const s of seen) {
    const d = (s.x - x) ** 2 + (s.y - y) ** 2;
    if (d < least) [best, least] = [s, d];
  }
  return best;
}

/** The place in the scene's list of the mover that is at a place of a frame; -1 where none is known. @param masks  of the frame, where they have been made */
export function moverAt(
  scene: AnalysedScene,
  frame: number,
  { x, y }: Point,
  masks: MoverMasks | null = null,
): number {
  if (masks) return moverOn(masks, scene.size, { x, y });
  return nearest(seenOn(scene, frame), x, y, NEAR * scene.size.width)?.mover ?? -1;
}

/** How far beyond its outermost tracks a mover is taken to reach, as a part of the picture's height. */
const BEYOND = 0.02;

/** Round the tracks of a mover on a frame, a little further out, as far as the picture reaches; null where it is not seen. */
export function moverOutline(scene: AnalysedScene, frame: number, mover: number): Point[] | null {
  const own = seenOn(scene, frame).filter((s) => s.mover === mover);
  const hull = polygonHull(own.map(({ x, y }) => [x, y]));
  if (!hull) return null;
  const { width, height } = scene.size;
  const [mx, my] = polygonCentroid(hull);
  return hull.map(([x, y]) => {
    const far = 1 + (BEYOND * height) / Math.max(1, Math.hypot(x - mx, y - my));
    const within = (v: number, most: number) => Math.min(most, Math.max(0, v));
    return { x: within(mx + far * (x - mx), width), y: within(my + far * (y - my), height) };
  });
}

export interface MoverArea {
  readonly mover: number;
  /** An SVG path round it, in picture pixels. */
  readonly path: string;
  /** The middle of the cell that lies deepest in it: where its name is read as its own. */
  readonly middle: Point;
}

/** Where each mover is on a frame: as its masks have it, else in cells, of which each has the mover of its nearest track. */
export function moverAreas(
  scene: AnalysedScene,
  frame: number,
  masks: MoverMasks | null = null,
): MoverArea[] {
  const areas = areasInCells(scene, frame);
  return masks ? areas.flatMap((area) => withinMask(area, masks, scene.size) ?? []) : areas;
}

/** The samples of a mask that are blurred together: its rim is no staircase. */
const ROUND = 1;

/** An area as a mask has it; null where that has nothing of it. */
function withinMask(
  { mover, middle }: MoverArea,
  masks: MoverMasks,
  size: AnalysedScene['size'],
): MoverArea | null {
  const { width, height } = masks;
  const own = Float32Array.from(masks.mover, (m) => (m === mover ? 1 : 0));
  const soft = boxMean(own, width, height, ROUND, new Float32Array(own.length));
  const [a, b] = [size.width / width, size.height / height];
  const px = ([x, y]: readonly number[]) => `${(x * a).toFixed(1)} ${(y * b).toFixed(1)}`;
  const { coordinates } = contours()
    .size([width, height])
    .contour(soft as unknown as number[], 0.5);
  const rings = coordinates.flat();
  if (rings.length === 0) return null;
  const path = rings.map((ring) => `M${ring.map(px).join('L')}Z`).join('');
  return {
    mover,
    path,
    middle: moverOn(masks, size, middle) === mover ? middle : deepestOf(masks, mover, size),
  };
}

/** A place of a mask that is far from its rim: the middle of the widest run of its samples. */
function deepestOf({ width, mover: of }: MoverMasks, mover: number, size: AnalysedScene['size']): Point {
  let [best, at] = [0, 0];
  for (let p = 0, run = 0; p < of.length; p++) {
    run = of[p] === mover && p % width > 0 ? run + 1 : of[p] === mover ? 1 : 0;
    if (run > best) [best, at] = [run, p];
  }
  const high = of.length / width;
  const x = ((at % width) + 0.5 - best / 2) * (size.width / width);
  return { x, y: (Math.floor(at / width) + 0.5) * (size.height / high) };
}

function areasInCells(scene: AnalysedScene, frame: number): MoverArea[] {
  const { width, height } = scene.size;
  const cell = width / COLUMNS;
  const rows = Math.ceil(height / cell);
  const seen = seenOn(scene, frame);
  const owner = Int16Array.from({ length: COLUMNS * rows }, (_, p) => {
    const [x, y] = [((p % COLUMNS) + 0.5) * cell, (Math.floor(p / COLUMNS) + 0.5) * cell];
    return nearest(seen, x, y, NEAR * width)?.mover ?? -1;
  });
  const depth = depths(owner, rows);
  return scene.movers.flatMap((_, mover) => {
    let deepest = -1;
    owner.forEach((o, p) => {
      if (o !== mover) return;
      const deeper = deepest < 0 ? 1 : depth[p] - depth[deepest];
      if (deeper > 0 || (deeper === 0 && fromMiddle(p, rows) < fromMiddle(deepest, rows))) deepest = p;
    });
    if (deepest < 0) return [];
    const middle = {
      x: ((deepest % COLUMNS) + 0.5) * cell,
      y: Math.min(height, (Math.floor(deepest / COLUMNS) + 0.5) * cell),
    };
    return [{ mover, middle, path: pathOf(owner, rows, mover, cell, height) }];
  });
}

/** How far a cell is from the middle of the picture, in cells. */
const fromMiddle = (p: number, rows: number) =>
  Math.hypot((p % COLUMNS) - COLUMNS / 2, Math.floor(p / COLUMNS) - rows / 2);

/** The cells of a mover as rectangles, one for each run of them along a row. */
function pathOf(owner: Int16Array, rows: number, mover: number, cell: number, height: number): string {
  const runs: string[] = [];
  const px = (v: number) => v.toFixed(1);
  for (let j = 0; j < rows; j++) {
    for (let i = 0; i < COLUMNS; i++) {
      if (owner[j * COLUMNS + i] !== mover) continue;
      const from = i;
      while (i < COLUMNS && owner[j * COLUMNS + i] === mover) i++;
      const [w, h] = [(i - from) * cell, Math.min(cell, height - j * cell)];
      runs.push(`M${px(from * cell)} ${px(j * cell)}h${px(w)}v${px(h)}h${px(-w)}z`);
    }
  }
  return runs.join('');
}

/** How many cells away the nearest cell of another mover, or the rim, is (a city-block distance transform). */
function depths(owner: Int16Array, rows: number): Int16Array {
  const depth = new Int16Array(owner.length);
  const visit = (p: number, i: number, j: number, side: number) => {
    let least = 32000;
    for (const [di, dj] of [
      [side, 0],
      [0, side],
    ]) {
      const [x, y] = [i + di, j + dj];
      const inside = x >= 0 && y >= 0 && x < COLUMNS && y < rows;
      const q = y * COLUMNS + x;
      least = Math.min(least, inside && owner[q] === owner[p] ? depth[q] + 1 : 1);
    }
    depth[p] = depth[p] ? Math.min(depth[p], least) : least;
  };
  for (let j = 0; j < rows; j++) for (let i = 0; i < COLUMNS; i++) visit(j * COLUMNS + i, i, j, -1);
  for (let j = rows - 1; j >= 0; j--) for (let i = COLUMNS - 1; i >= 0; i--) visit(j * COLUMNS + i, i, j, 1);
  return depth;
}
