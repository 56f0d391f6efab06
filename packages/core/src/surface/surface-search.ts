import { moveQuad, staysInFront, type Quad } from '../geometry/homography.js';
import { apply, invert, multiply, translation, type Matrix3, type Point } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import type { Pyramid } from '../picture/pyramid.js';
import { correlationMap, peaksOf, type Patch } from '../track/correlation.js';
import { FIRST_LOOK, type SurfaceTemplate } from './surface-template.js';
import { cornersApart } from './surface-track.js';

/** What is looked for in a search has about so many samples from its middle to a corner. */
const SEARCH_HALF = 24;
/** Places of each part of the surface that are tried. */
const PEAKS = 2;

/**
 * Where else a surface could be: its looks on a coarse level, as they would be seen from the likeliest motion, whole and in
 * quarters - what covers a part of it leaves others - correlated over the reach.
 *
 * @param guess  the likeliest motion: its own frame to the picture's
 * @param reach  how far, in source pixels
 * @returns motions that look alike, the likest first
 */
export function looksAlike(
  template: SurfaceTemplate,
  picture: Pyramid,
  guess: Matrix3,
  reach: number,
): { readonly motion: Matrix3; readonly score: number }[] {
  const grown = cornersApart(
    boxOn(template, guess),
    repeated(apply(guess, template.middle.x, template.middle.y)),
  );
  const level = Math.min(
    picture.levels.length - 1,
    Math.max(FIRST_LOOK, Math.round(Math.log2(Math.max(1, grown / SEARCH_HALF)))),
  );
  const look = template.looks[Math.min(level, template.looks.length - 1)];
  if (!look) return [];
  const plane = picture.levels[level];
  const size = 2 ** level;
  picture.need(level, 0, 0, plane.width * size, plane.height * size);
  const back = toLevels(invert(guess), level, Math.min(level, template.looks.length - 1));
  const steps = Math.max(1, Math.ceil(reach / size));
  const found: { readonly motion: Matrix3; readonly score: number }[] = [];
  for (const part of partsOf(template, guess, size)) {
    const patch = seenThrough(look, back, part);
    if (!patch) continue;
    const map = correlationMap(plane, patch, part.cx, part.cy, steps, steps);
    for (const peak of peaksOf(map, PEAKS)) {
      const moved = translation((peak.x - part.cx) * size, (peak.y - part.cy) * size);
      found.push({ motion: multiply(moved, guess), score: peak.score });
    }
  }
  return found.sort((a, b) => b.score - a.score);
}

const repeated = (p: Point): Quad => [p, p, p, p];

/** Where a template's box is under a motion. */
export function boxOn(template: SurfaceTemplate, motion: Matrix3): Quad {
  return moveQuad(multiply(motion, template.fromUnit), template.corners as Quad);
}

/** A homography between source pixels as one between samples of levels. */
function toLevels(m: Matrix3, from: number, to: number): Matrix3 {
  const [f, t] = [2 ** from, 1 / 2 ** to];
  return [
    m[0] * f * t,
    m[1] * f * t,
    m[2] * t,
    m[3] * f * t,
    m[4] * f * t,
    m[5] * t,
    m[6] * f,
    m[7] * f,
    m[8],
  ];
}

interface Part {
  /** The sample it is centred on, and its half-sizes. */
  readonly cx: number;
  readonly cy: number;
  readonly hw: number;
  readonly hh: number;
}

/** The middle of a surface as it would be seen, and its quarters, in samples. */
function partsOf(template: SurfaceTemplate, guess: Matrix3, size: number): Part[] {
  const m = multiply(guess, template.fromUnit);
  if (!staysInFront(m, template.corners)) return [];
  const [{ x: w, y: h }] = [template.corners[2]];
  const part = (u: number, v: number, share: number): Part => {
    const c = apply(m, u * w, v * h);
    const [p, q] = [apply(m, (u + share) * w, v * h), apply(m, u * w, (v + share) * h)];
    const hw = Math.max(3, Math.round((Math.hypot(p.x - c.x, q.x - c.x) / size) * 0.9));
    const hh = Math.max(3, Math.round((Math.hypot(p.y - c.y, q.y - c.y) / size) * 0.9));
    return { cx: Math.floor(c.x / size), cy: Math.floor(c.y / size), hw, hh };
  };
  return [
    part(0, 0, 1),
    part(-0.5, -0.5, 0.5),
    part(0.5, -0.5, 0.5),
    part(-0.5, 0.5, 0.5),
    part(0.5, 0.5, 0.5),
  ];
}

/** What would be seen about a place, from another frame's picture; null where too little of that is known. */
function seenThrough(
  { width, height, stride, data }: Plane,
  back: Matrix3,
  { cx, cy, hw, hh }: Part,
): Patch | null {
  const n = 2 * hw + 1;
  const values = new Float32Array(n * (2 * hh + 1));
  let outside = 0;
  for (let j = -hh, k = 0; j <= hh; j++) {
    for (let i = -hw; i <= hw; i++, k++) {
      const p = apply(back, cx + i + 0.5, cy + j + 0.5);
      const [x, y] = [Math.floor(p.x), Math.floor(p.y)];
      if (x < 0 || y < 0 || x >= width || y >= height) outside++;
      values[k] = data[Math.min(height - 1, Math.max(0, y)) * stride + Math.min(width - 1, Math.max(0, x))];
    }
  }
  return outside > 0.3 * values.length ? null : { hw, hh, values };
}
