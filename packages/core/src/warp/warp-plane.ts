import { areaScale, isAffine, multiply, scaling, type Matrix3 } from '../geometry/matrix.js';
import { cubic, CUBIC_PHASES, CUBIC_TABLE } from '../picture/kernel.js';
import type { Plane } from '../picture/plane.js';
import { halve } from '../picture/pyramid.js';
import { fold, type Beyond } from './edges.js';

/** Shrinking by less than this needs no wider kernel. Shared with the preview's shader. */
export const SHRINK_FROM = 1.02;
/** Shrinking by more than this halves the plane first. Shared with the preview's shader. */
export const HALVE_FROM = 2;

const PHASES = CUBIC_PHASES;
const WEIGHTS = CUBIC_TABLE;

/** The source as it is sampled: halved until the remaining shrink is at most {@link HALVE_FROM}. */
export function halvingsFor(outputToSource: Matrix3): number {
  let halvings = 0;
  for (let s = areaScale(outputToSource); s > HALVE_FROM; s /= 2) halvings++;
  return halvings;
}

/**
 * Draws a plane through a matrix: output sample centre -> source place, by cubic convolution (Keys 1981). Where
 * the matrix shrinks, the kernel widens with it, after whole halvings, so that nothing aliases. Within the
 * picture the value is the picture's alone; outside it fades to a colour over one source sample, or the picture
 * goes on, stretched or mirrored.
 *
 * @param outputToSource  corner-based output coordinates to corner-based source coordinates, in samples of
 *                        these planes
 * @param beyond          what lies outside the picture: a value of this plane, or how the picture goes on
 * @param rows            the output rows to draw, [from, to); all when left out
 * Cost: 16 multiply-adds an output sample, up to 64 where it shrinks. No allocation unless it halves.
 */
export function warpPlane(
  source: Plane,
  output: Plane,
  outputToSource: Matrix3,
  beyond: Beyond,
  rows: readonly [number, number] = [0, output.height],
): void {
  let plane = source;
  let m = outputToSource;
  for (let halvings = halvingsFor(m); halvings > 0; halvings--) {
    plane = halve(plane);
    m = multiply(scaling(0.5), m);
  }
  const shrink = areaScale(m);
  if (shrink > SHRINK_FROM) drawWide(plane, output, m, beyond, rows, shrink);
  else drawPlain(plane, output, m, beyond, rows);
}

function drawPlain(
  source: Plane,
  output: Plane,
  m: Matrix3,
  beyond: Beyond,
  [from, to]: readonly [number, number],
): void {
  const { width: w, height: h, stride, data } = source;
  const out = output.data;
  const affine = isAffine(m);
  const scale = affine ? 1 / m[8] : 1;
  for (let j = from; j < to; j++) {
    const v = j + 0.5;
    // Index coordinates: the half sample is taken off here, once.
    let xn = m[0] * 0.5 + m[1] * v + m[2];
    let yn = m[3] * 0.5 + m[4] * v + m[5];
    let dn = m[6] * 0.5 + m[7] * v + m[8];
    let q = j * output.stride;
    for (let i = 0; i < output.width; i++, q++, xn += m[0], yn += m[3], dn += m[6]) {
      const inverse = affine ? scale : 1 / dn;
      const x = xn * inverse - 0.5;
      const y = yn * inverse - 0.5;
      const ix = Math.floor(x);
      const iy = Math.floor(y);
      const wx = (((x - ix) * PHASES + 0.5) | 0) << 2;
      const wy = (((y - iy) * PHASES + 0.5) | 0) << 2;
      if (ix >= 1 && iy >= 1 && ix < w - 2 && iy < h - 2) {
        const a0 = WEIGHTS[wx];
        const a1 = WEIGHTS[wx + 1];
        const a2 = WEIGHTS[wx + 2];
        const a3 = WEIGHTS[wx + 3];
        let p = (iy - 1) * stride + ix - 1;
        let sum = WEIGHTS[wy] * (a0 * data[p] + a1 * data[p + 1] + a2 * data[p + 2] + a3 * data[p + 3]);
        p += stride;
        sum += WEIGHTS[wy + 1] * (a0 * data[p] + a1 * data[p + 1] + a2 * data[p + 2] + a3 * data[p + 3]);
        p += stride;
        sum += WEIGHTS[wy + 2] * (a0 * data[p] + a1 * data[p + 1] + a2 * data[p + 2] + a3 * data[p + 3]);
        p += stride;
        sum += WEIGHTS[wy + 3] * (a0 * data[p] + a1 * data[p + 1] + a2 * data[p + 2] + a3 * data[p + 3]);
        out[q] = sum < 0 ? 0 : sum > 255 ? 255 : (sum + 0.5) | 0;
      } else {
        out[q] = drawNearEdge(source, x + 0.5, y + 0.5, beyond);
      }
    }
  }
}

function drawNearEdge(source: Plane, x: number, y: number, beyond: Beyond): number {
  const { width: w, height: h } = source;
  if (typeof beyond === 'string')
    return finish(sampleCubic(source, fold(x, w, beyond), fold(y, h, beyond)), 1, 0);
  const cover = coverage(x, y, w, h);
  return cover > 0 ? finish(sampleCubic(source, x, y), cover, beyond) : beyond;
}

/** The plane at a place (corner-based) by cubic convolution; beyond its rim the outermost samples count on. */
export function sampleCubic(source: Plane, px: number, py: number): number {
  const { width: w, height: h, stride, data } = source;
  const x = px - 0.5;
  const y = py - 0.5;
  const ix = Math.floor(x);
  const iy = Math.floor(y);
  const wx = (((x - ix) * PHASES + 0.5) | 0) << 2;
  const wy = (((y - iy) * PHASES + 0.5) | 0) << 2;
  let sum = 0;
  for (let j = 0; j < 4; j++) {
    const row = clamp(iy - 1 + j, h) * stride;
    let line = 0;
    for (let i = 0; i < 4; i++) line += WEIGHTS[wx + i] * data[row + clamp(ix - 1 + i, w)];
    sum += WEIGHTS[wy + j] * line;
  }
  return sum;
}

function drawWide(
  source: Plane,
  output: Plane,
  m: Matrix3,
  beyond: Beyond,
  [from, to]: readonly [number, number],
  shrink: number,
): void {
  const { width: w, height: h, stride, data } = source;
  const taps = Math.ceil(4 * shrink);
  const goesOn = typeof beyond === 'string';
  const fill = goesOn ? 0 : beyond;
  const wx = new Float64Array(taps);
  const wy = new Float64Array(taps);
  for (let j = from; j < to; j++) {
    const v = j + 0.5;
    for (let i = 0; i < output.width; i++) {
      const u = i + 0.5;
      const d = m[6] * u + m[7] * v + m[8];
      let x = (m[0] * u + m[1] * v + m[2]) / d;
      let y = (m[3] * u + m[4] * v + m[5]) / d;
      const q = j * output.stride + i;
      if (goesOn) {
        x = fold(x, w, beyond);
        y = fold(y, h, beyond);
      }
      const cover = coverage(x, y, w, h);
      if (!(cover > 0)) {
        out(output, q, fill);
        continue;
      }
      const x0 = Math.floor(x - 0.5 - 2 * shrink) + 1;
      const y0 = Math.floor(y - 0.5 - 2 * shrink) + 1;
      let sx = 0;
      let sy = 0;
      for (let k = 0; k < taps; k++) {
        sx += wx[k] = cubic((x0 + k - x + 0.5) / shrink);
        sy += wy[k] = cubic((y0 + k - y + 0.5) / shrink);
      }
      let sum = 0;
      for (let r = 0; r < taps; r++) {
        const row = clamp(y0 + r, h) * stride;
        let line = 0;
        for (let c = 0; c < taps; c++) line += wx[c] * data[row + clamp(x0 + c, w)];
        sum += wy[r] * line;
      }
      out(output, q, finish(sum / (sx * sy), cover, fill));
    }
  }
}

function out(plane: Plane, at: number, value: number): void {
  plane.data[at] = value;
}

/** 1 inside the picture, falling to 0 one sample outside it. */
export function coverage(x: number, y: number, w: number, h: number): number {
  const inside = Math.min(x, w - x, y, h - y);
  return inside >= 0 ? 1 : Math.max(0, 1 + inside);
}

function finish(value: number, cover: number, fill: number): number {
  const v = Math.min(255, Math.max(0, value));
  return Math.round(fill + (v - fill) * cover);
}

function clamp(i: number, size: number): number {
  return i < 0 ? 0 : i >= size ? size - 1 : i;
}
