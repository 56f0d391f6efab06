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
/** How far an outline may stray, in samples, and in parts of the root of the area. */
const STRAY = [0.8, 0.012] as const;

/**
 * What hangs together about a place: samples that belong, each beside the next, with its outline where half of a sample
 * does (marching squares: Lorensen and Cline 1987, in the plane).
 *
 * @param at  in samples, corner-based
 * @returns null where the place itself does not belong, lies outside, or has nothing about it
 * Cost: a few operations a sample.
 */
export function regionAbout(likeness: Likeness, at: Point): Region | null {
  const even = evened(likeness);
  const reached = floodFrom(even, at);
  if (!reached) return null;
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
