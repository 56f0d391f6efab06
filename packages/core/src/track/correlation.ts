import { correlationSums, type Patch } from '@lurn/kernels';
import type { Plane } from '../picture/plane.js';

export type { Patch } from '@lurn/kernels';

/** Normalised cross-correlation on a grid of shifts. */
export interface ScoreMap {
  /** Shift of the first column and row, in samples. */
  readonly x0: number;
  readonly y0: number;
  readonly columns: number;
  readonly rows: number;
  /** Scores from -1 to 1; -2 where too little of the patch lies in the picture. */
  readonly scores: Float64Array;
}

/** The least part of a patch that must lie inside the picture for a match to mean anything. */
export const LEAST_INSIDE = 0.5;

/**
 * Zero-mean normalised cross-correlation of a patch with the picture, the patch's centre on the sample (cx, cy)
 * given as indices (Lewis 1995, "Fast normalized cross-correlation", eq. 1). Only places inside the picture
 * count. Insensitive to gain and offset.
 *
 * @returns the score, or -2 when less than {@link LEAST_INSIDE} of the patch is inside.
 * Cost: three multiply-adds a place.
 */
export function correlationAt(plane: Plane, patch: Patch, cx: number, cy: number): number {
  const { width, height, stride, data } = plane;
  const { hw, hh, values } = patch;
  const n = 2 * hw + 1;
  const i0 = Math.max(0, hw - cx);
  const i1 = Math.min(n, width - cx + hw);
  const j0 = Math.max(0, hh - cy);
  const j1 = Math.min(2 * hh + 1, height - cy + hh);
  const count = (i1 - i0) * (j1 - j0);
  if (i1 <= i0 || j1 <= j0 || count < LEAST_INSIDE * values.length) return -2;
  let sa = 0;
  let saa = 0;
  let sb = 0;
  let sbb = 0;
  let sab = 0;
  for (let j = j0; j < j1; j++) {
    let p = (cy - hh + j) * stride + cx - hw + i0;
    const end = j * n + i1;
    for (let q = j * n + i0; q < end; q++, p++) {
      const a = values[q];
      const b = data[p];
      sa += a;
      saa += a * a;
      sb += b;
      sbb += b * b;
      sab += a * b;
    }
  }
  return score(count, sa, saa, sb, sbb, sab);
}

/** The correlation coefficient from sums; 0 where either side has no contrast. */
export function score(n: number, sa: number, saa: number, sb: number, sbb: number, sab: number): number {
  const va = saa - (sa * sa) / n;
  const vb = sbb - (sb * sb) / n;
  if (va < 1e-6 * n || vb < 1e-6 * n) return 0;
  return (sab - (sa * sb) / n) / Math.sqrt(va * vb);
}

let sums = new Float64Array(0);

/**
 * Scores for all whole-sample shifts within +-rx, +-ry of the sample (cx, cy).
 * Cost: three multiply-adds a place and shift.
 */
export function correlationMap(
  plane: Plane,
  patch: Patch,
  cx: number,
  cy: number,
  rx: number,
  ry: number,
): ScoreMap {
  const columns = 2 * rx + 1;
  const rows = 2 * ry + 1;
  const scores = new Float64Array(columns * rows);
  const { hw, hh, values } = patch;
  const { width, height, covered } = plane;
  let sa = 0;
  let saa = 0;
  for (let q = 0; q < values.length; q++) {
    sa += values[q];
    saa += values[q] * values[q];
  }
  // Shifts at which the whole patch lies in the picture are summed together, the others one by one.
  const [left, top] = [cx - rx, cy - ry];
  const clamp = (v: number, most: number) => Math.min(most, Math.max(0, v));
  const [i0, i1] = [clamp(hw - left, columns), clamp(width - hw - left, columns)];
  const [j0, j1] = [clamp(hh - top, rows), clamp(height - hh - top, rows)];
  const across = Math.max(0, i1 - i0);
  const down = Math.max(0, j1 - j0);
  if (sums.length < 3 * across * down) sums = new Float64Array(3 * across * down);
  if (across * down > 0) correlationSums(plane, patch, left + i0 - hw, top + j0 - hh, across, down, sums);
  for (let j = 0, k = 0; j < rows; j++) {
    for (let i = 0; i < columns; i++) {
      if (j >= j0 && j < j1 && i >= i0 && i < i1) {
        scores[j * columns + i] = score(values.length, sa, saa, sums[k], sums[k + 1], sums[k + 2]);
        k += 3;
      } else scores[j * columns + i] = correlationAt(plane, patch, left + i, top + j);
    }
  }
  // What lies on something that is not measured is not it.
  if (covered) {
    for (let j = Math.max(0, -top); j < Math.min(rows, height - top); j++)
      for (let i = Math.max(0, -left); i < Math.min(columns, width - left); i++)
        if (covered[(top + j) * width + left + i] === 1) scores[j * columns + i] = -2;
  }
  return { x0: left, y0: top, columns, rows, scores };
}

export interface Peak {
  /** Where the peak is, as an index of samples, between them too. */
  readonly x: number;
  readonly y: number;
  readonly score: number;
}

/**
 * The highest local maxima of a score map, best first. Each is the top of a parabola along either axis: between four
 * samples a sharp peak would score much less than one that lies on a sample.
 */
export function peaksOf(map: ScoreMap, count: number): Peak[] {
  const { columns, rows, scores } = map;
  const peaks: Peak[] = [];
  for (let j = 0; j < rows; j++) {
    for (let i = 0; i < columns; i++) {
      const s = scores[j * columns + i];
      if (s <= -2 || !isLocalMaximum(map, i, j, s)) continue;
      const at = (di: number, dj: number) => {
        const inside = i + di >= 0 && j + dj >= 0 && i + di < columns && j + dj < rows;
        return inside ? scores[(j + dj) * columns + i + di] : -Infinity;
      };
      const [across, down] = [topOf(at(-1, 0), s, at(1, 0)), topOf(at(0, -1), s, at(0, 1))];
      const score = Math.min(1, s + across.rise + down.rise);
      peaks.push({ x: map.x0 + i + across.shift, y: map.y0 + j + down.shift, score });
    }
  }
  return peaks.sort((a, b) => b.score - a.score).slice(0, count);
}

/** Where between its neighbours the top of the parabola through three scores is, and how much higher. */
function topOf(before: number, at: number, after: number): { shift: number; rise: number } {
  const bend = before - 2 * at + after;
  // At the rim of the map, or beside places without texture, there is nothing to go by.
  if (!(before > -2 && after > -2 && bend < 0)) return { shift: 0, rise: 0 };
  return { shift: (before - after) / (2 * bend), rise: -((before - after) ** 2) / (8 * bend) };
}

function isLocalMaximum({ columns, rows, scores }: ScoreMap, i: number, j: number, s: number): boolean {
  for (let dj = -1; dj <= 1; dj++) {
    for (let di = -1; di <= 1; di++) {
      const x = i + di;
      const y = j + dj;
      if ((di || dj) && x >= 0 && y >= 0 && x < columns && y < rows && scores[y * columns + x] > s)
        return false;
    }
  }
  return true;
}
