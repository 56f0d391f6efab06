import { polygonCentroid, polygonHull } from 'd3-polygon';
import { sampleIndex, type AnalysedScene, type Point } from '@lurn/core';

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

/** The place in the scene's list of the mover that is at a place of a frame; -1 where none is known. */
export function moverAt(scene: AnalysedScene, frame: number, { x, y }: Point): number {
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
  /** An SVG path of its cells, in picture pixels. */
  readonly path: string;
  /** The middle of the cell that lies deepest in it: where its name is read as its own. */
  readonly middle: Point;
}

/** Where each mover is on a frame, in cells: each has the mover of its nearest track. */
export function moverAreas(scene: AnalysedScene, frame: number): MoverArea[] {
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
