import { contours } from 'd3-contour';
import type { Point } from './matrix.js';
import { simplified } from './simplify.js';
import { twiceArea } from './mesh.js';

/** How much each sample of a picture belongs to something, 0 to 1, row by row. */
export interface Likeness {
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

/** What hangs together: its outline, and what it leaves open inside, in the samples' own places (corner-based). */
export interface Region {
  readonly outline: readonly Point[];
  readonly holes: readonly (readonly Point[])[];
}

/** It belongs from this much on. */
const BELONGS = 0.5;
/** Holes of less than this part of the whole are speckles. */
const LEAST_HOLE = 0.01;
/** What is thinner than twice this part of the root of the area is not worth points of a mesh. */
const THIN = 0.035;
/** How far an outline may stray, in samples, and in parts of the root of the area. */
const STRAY = [0.8, 0.012] as const;

/**
 * What hangs together about a place: samples that belong, each beside the next, with its outline where half of a sample
 * does (marching squares: Lorensen and Cline 1987, in the plane).
 *
 * Threads that hang on it are left out, and slits filled.
 *
 * @param at  in samples, corner-based
 * @returns null where the place itself does not belong, lies outside, or has nothing about it
 * Cost: a few operations a sample.
 */
export function regionAbout(likeness: Likeness, at: Point): Region | null {
  const reached = floodFrom(evened(likeness), at);
  if (!reached) return null;
  smoothed(reached, likeness.width);
  const { width, height } = likeness;
  const [shape] = contours().size([width, height]).thresholds([BELONGS])(Array.from(reached));
  const points = (ring: number[][]) => ring.slice(0, -1).map(([x, y]) => ({ x, y }));
  // What hangs together by corners alone comes apart here: the largest is meant.
  const parts = shape.coordinates.map((rings) => rings.map(points));
  const size = (ring: readonly Point[] = []) => Math.abs(twiceArea(ring)) / 2;
  const [largest] = parts.sort((a, b) => size(b[0]) - size(a[0]));
  if (!largest) return null;
  const [outline, ...holes] = largest;
  const least = LEAST_HOLE * size(outline);
  const stray = Math.max(STRAY[0], STRAY[1] * Math.sqrt(size(outline)));
  return {
    outline: simplified(outline, stray),
    holes: holes.filter((ring) => size(ring) > least).map((ring) => simplified(ring, stray)),
  };
}

/** Takes away what is thinner than a part of its whole, and fills what is as narrow, in place (opening and closing; Serra 1982). */
function smoothed(reached: Float32Array, width: number): void {
  const mask = Uint8Array.from(reached, (v) => (v >= BELONGS ? 1 : 0));
  const area = mask.reduce((sum, v) => sum + v, 0);
  const r = Math.max(1, Math.round(THIN * Math.sqrt(area)));
  const filled = spread(spread(mask, width, r, 1), width, r, 0);
  const kept = spread(spread(filled, width, r, 0), width, r, 1);
  // Its edge stays where it was: between samples that belong and those beside them.
  const beside = spread(kept, width, 1, 1);
  for (let p = 0; p < reached.length; p++) {
    if (kept[p]) reached[p] = Math.max(reached[p], filled[p] && !mask[p] ? 1 : 0);
    else if (mask[p] || !beside[p]) reached[p] = 0;
  }
}

/** Ones, or noughts, go so far to every side, square by square; beyond the picture there are neither. */
function spread(mask: Uint8Array, width: number, by: number, what: 0 | 1): Uint8Array {
  const height = mask.length / width;
  const along = (from: Uint8Array, step: number, line: number, lines: number, n: number) => {
    const out = from.slice();
    for (let l = 0; l < lines; l++)
      for (let i = 0; i < n; i++) {
        if (from[l * line + i * step] !== what) continue;
        for (let k = Math.max(0, i - by); k <= Math.min(n - 1, i + by); k++) out[l * line + k * step] = what;
      }
    return out;
  };
  return along(along(mask, 1, width, height, width), width, 1, width, height);
}

/** The mean of three by three samples: speckles neither join nor part. */
function evened({ width, height, data }: Likeness): Likeness {
  const out = new Float32Array(data.length);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let [sum, n] = [0, 0];
      for (let j = Math.max(0, y - 1); j <= Math.min(height - 1, y + 1); j++)
        for (let i = Math.max(0, x - 1); i <= Math.min(width - 1, x + 1); i++, n++)
          sum += data[j * width + i];
      out[y * width + x] = sum / n;
    }
  }
  return { width, height, data: out };
}

/** The samples that hang together with a place; those about them keep how much they belong, so that the outline runs between. */
function floodFrom({ width, height, data }: Likeness, at: Point): Float32Array | null {
  const [x, y] = [Math.floor(at.x), Math.floor(at.y)];
  if (!(x >= 0 && y >= 0 && x < width && y < height) || data[y * width + x] < BELONGS) return null;
  const out = new Float32Array(data.length);
  const waiting = [y * width + x];
  out[waiting[0]] = data[waiting[0]];
  for (let p = waiting.pop(); p !== undefined; p = waiting.pop()) {
    if (data[p] < BELONGS) continue;
    const column = p % width;
    const about = [
      ...(column > 0 ? [p - 1] : []),
      ...(column < width - 1 ? [p + 1] : []),
      ...(p >= width ? [p - width] : []),
      ...(p < data.length - width ? [p + width] : []),
    ];
    for (const q of about) {
      if (out[q] > 0 || data[q] === 0) continue;
      out[q] = data[q];
      waiting.push(q);
    }
  }
  return out;
}
