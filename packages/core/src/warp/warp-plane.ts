import { CUBIC_TABLE, CubicRows, PHASES, sampleWide, WIDEST, type EvenSteps } from '@lurn/kernels';
import { scaling, type Matrix3 } from '../geometry/matrix.js';
import { after, evaluatorOf, evenMatrix, scaleRange, type Warp } from '../geometry/warp.js';
import { peakOf, type AnyPlane } from '../picture/plane.js';
import { halve } from '../picture/pyramid.js';
import { fold, type Beyond } from './edges.js';

export { WIDEST };

/** Shrinking by less than this needs no wider kernel. Shared with the preview's shader. */
export const SHRINK_FROM = 1.02;
/** Shrinking by more than this everywhere halves the plane first. Shared with the preview's shader. */
export const HALVE_FROM = 2;

const WEIGHTS = CUBIC_TABLE;

/** How often a source is halved before it is sampled: until what shrinks least shrinks by at most {@link HALVE_FROM}. */
export function halvingsFor(leastScale: number): number {
  let halvings = 0;
  for (let s = leastScale; s > HALVE_FROM && Number.isFinite(s); s /= 2) halvings++;
  return halvings;
}

/** Whether a warp that shrinks by so much needs a wider kernel anywhere. */
export function isWide(mostScale: number): boolean {
  return mostScale > SHRINK_FROM;
}

/**
 * As {@link warpPlane}, as quickly as it can be: neither halved nor by a wider kernel where the warp shrinks, so that a
 * little of it aliases where it does. For what moves by.
 */
export function warpPlaneNarrowly<P extends AnyPlane>(
  source: P,
  output: P,
  warp: Warp,
  beyond: Beyond,
): void {
  drawPlain(source, output, warp, beyond, [0, output.height]);
}

/** Places of a row, kept from one call to the next. */
let xs = new Float64Array(0);
let ys = new Float64Array(0);

/**
 * Draws a plane through a warp: output sample centre -> source place, by cubic convolution (Keys 1981). Where
 * the warp shrinks, the kernel widens with it, after whole halvings, so that nothing aliases. Within the
 * picture the value is the picture's alone; outside it fades to a colour over one source sample, or the picture
 * goes on, stretched or mirrored.
 *
 * @param outputToSource  corner-based output coordinates to corner-based source coordinates, in samples of
 *                        these planes
 * @param output          of the source's depth
 * @param beyond          what lies outside the picture: a value of this plane, or how the picture goes on
 * @param rows            the output rows to draw, [from, to); all when left out
 * Cost: 16 multiply-adds an output sample, up to 256 where it shrinks. No allocation unless it halves.
 */
export function warpPlane<P extends AnyPlane>(
  source: P,
  output: P,
  outputToSource: Warp,
  beyond: Beyond,
  rows: readonly [number, number] = [0, output.height],
): void {
  let plane: AnyPlane = source;
  let warp = outputToSource;
  let { least, most } = scaleRange(warp, output.width, output.height);
  for (let halvings = halvingsFor(least); halvings > 0; halvings--) {
    plane = halve(plane);
    warp = after(scaling(0.5), warp);
    least /= 2;
    most /= 2;
  }
  if (xs.length < output.width) {
    xs = new Float64Array(output.width);
    ys = new Float64Array(output.width);
  }
  if (isWide(most)) drawWide(plane, output, warp, beyond, rows);
  else drawPlain(plane, output, warp, beyond, rows);
}

function drawPlain(
  source: AnyPlane,
  output: AnyPlane,
  warp: Warp,
  beyond: Beyond,
  [from, to]: readonly [number, number],
): void {
  const out = output.data;
  const peak = peakOf(output);
  const [place, even] = [evaluatorOf(warp), evenMatrix(warp)];
  const n = output.width;
  const cubic = new CubicRows(source, n);
  const { xs, ys } = cubic;
  for (let j = from; j < to; j++) {
    const q = j * output.stride;
    const steps = even && stepsOf(even, j + 0.5);
    const draw = (first: number) =>
      cubic.draw(steps ? cubic.drawEven(steps, first, out, q) : first, out, q, peak);
    let i = steps ? cubic.drawEven(steps, 0, out, q) : 0;
    if (i === n) continue;
    place.row(j + 0.5, 0.5, n + 0.5, xs, ys);
    i = cubic.draw(i, out, q, peak);
    // Where the picture goes on, what lies beyond its rim is as far inside it.
    if (i < n && typeof beyond === 'string') foldPlaces(source, beyond, xs, ys, i, n);
    for (; i < n; i = draw(i)) {
      // A place at or beyond the rim; others follow it, as a rule.
      let rim = i;
      do out[q + rim] = drawNearEdge(source, xs[rim], ys[rim], beyond, peak);
      while (++rim < n && !isInside(source, xs[rim], ys[rim]));
      i = rim;
    }
  }
}

/** The places of a row of output samples' centres by a matrix without perspective. */
function stepsOf([a, b, c, d, e, f, , , i]: Matrix3, y: number): EvenSteps {
  return { x: (0.5 * a + b * y + c) / i, y: (0.5 * d + e * y + f) / i, dx: a / i, dy: d / i };
}

function foldPlaces(
  { width, height }: AnyPlane,
  beyond: 'stretched' | 'mirrored',
  xs: Float64Array,
  ys: Float64Array,
  from: number,
  to: number,
): void {
  for (let i = from; i < to; i++) {
    if (!(xs[i] >= 0 && xs[i] <= width)) xs[i] = fold(xs[i], width, beyond);
    if (!(ys[i] >= 0 && ys[i] <= height)) ys[i] = fold(ys[i], height, beyond);
  }
}

/** True where all sixteen samples that a place is made of lie in the plane. */
function isInside({ width, height }: AnyPlane, x: number, y: number): boolean {
  return x >= 1.5 && y >= 1.5 && x < width - 1.5 && y < height - 1.5;
}

function drawNearEdge(source: AnyPlane, x: number, y: number, beyond: Beyond, peak: number): number {
  const { width: w, height: h } = source;
  if (typeof beyond === 'string')
    return finish(sampleCubic(source, fold(x, w, beyond), fold(y, h, beyond)), 1, 0, peak);
  const cover = coverage(x, y, w, h);
  return cover > 0 ? finish(sampleCubic(source, x, y), cover, beyond, peak) : beyond;
}

/** The plane at a place (corner-based) by cubic convolution; beyond its rim the outermost samples count on. */
export function sampleCubic(source: AnyPlane, px: number, py: number): number {
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
  source: AnyPlane,
  output: AnyPlane,
  warp: Warp,
  beyond: Beyond,
  [from, to]: readonly [number, number],
): void {
  const { width: w, height: h } = source;
  const goesOn = typeof beyond === 'string';
  const fill = goesOn ? 0 : beyond;
  const peak = peakOf(output);
  const [place, even] = [evaluatorOf(warp), evenMatrix(warp)];
  const same = even && place.scaleAt(0, 0);
  const n = output.width;
  const rows = same === null ? null : new CubicRows(source, n);
  for (let j = from; j < to; j++) {
    const q = j * output.stride;
    const steps = even && stepsOf(even, j + 0.5);
    place.row(j + 0.5, 0.5, n + 0.5, xs, ys);
    for (let i = 0; i < n; i++) {
      // What lies well inside the picture; then the kernel is asked again where it may have come back there.
      if (rows && steps && (i === 0 || isDeepInside(source, xs[i], ys[i])))
        if ((i = rows.drawWide(steps, same!, i, output.data, q)) === n) break;
      const x = goesOn ? fold(xs[i], w, beyond) : xs[i];
      const y = goesOn ? fold(ys[i], h, beyond) : ys[i];
      const cover = coverage(x, y, w, h);
      if (!(cover > 0)) {
        output.data[q + i] = fill;
        continue;
      }
      const shrink = same ?? Math.min(WIDEST, place.scaleAt(i + 0.5, j + 0.5));
      const value = isWide(shrink) ? sampleWide(source, x, y, shrink) : sampleCubic(source, x, y);
      output.data[q + i] = finish(value, cover, fill, peak);
    }
  }
}

/** True where all samples that a place is made of by a kernel twice as wide lie in the plane. */
function isDeepInside({ width, height }: AnyPlane, x: number, y: number): boolean {
  return x >= 5 && y >= 5 && x < width - 8 && y < height - 8;
}

/** 1 inside the picture, falling to 0 one sample outside it. */
export function coverage(x: number, y: number, w: number, h: number): number {
  const inside = Math.min(x, w - x, y, h - y);
  return inside >= 0 ? 1 : Math.max(0, 1 + inside);
}

function finish(value: number, cover: number, fill: number, peak: number): number {
  const v = Math.min(peak, Math.max(0, value));
  return Math.round(fill + (v - fill) * cover);
}

function clamp(i: number, size: number): number {
  return i < 0 ? 0 : i >= size ? size - 1 : i;
}
