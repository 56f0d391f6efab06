import { chain, invert, scaling, translation, type Matrix3 } from '../geometry/matrix.js';
import { evaluatorOf, warpMatrix, type Warp } from '../geometry/warp.js';
import { lastThatHolds } from '../numbers.js';

export interface Size {
  readonly width: number;
  readonly height: number;
}

/** What part of the steadied picture fills the frame. */
export interface Framing {
  /** 1 leaves the size as it is. */
  readonly zoom: number;
  /** How far the picture is moved in the frame, in source pixels at zoom 1, to the right and down. */
  readonly shiftX: number;
  readonly shiftY: number;
}

/**
 * Delivered pixels for each source pixel at zoom 1: the frame is covered, so that a delivery of another shape cuts
 * off what does not fit.
 */
export function deliveryScale(source: Size, delivery: Size): number {
  return Math.max(delivery.width / source.width, delivery.height / source.height);
}

/** The part of the source's frame that a delivery shows, about the middle, in source pixels. */
export function deliveryWindow(source: Size, delivery: Size): Size {
  const scale = deliveryScale(source, delivery);
  return { width: delivery.width / scale, height: delivery.height / scale };
}

/** F: steadied coordinates to output pixels; the middle stays the middle. */
export function framingMatrix(
  { zoom, shiftX, shiftY }: Framing,
  source: Size,
  output: Size = source,
): Matrix3 {
  return chain(
    translation(output.width / 2, output.height / 2),
    scaling(deliveryScale(source, output)),
    translation(shiftX, shiftY),
    scaling(zoom),
    translation(-source.width / 2, -source.height / 2),
  );
}

/**
 * The smallest zoom at which one frame shows no edge, exactly.
 *
 * A corner of the output lies at c + u k in steadied coordinates, with u = 1 / zoom; the inverse correction
 * takes it to (N(u) / D(u)) in the source, N and D linear in u. Staying inside the source - 0 <= N <= W D,
 * D > 0 - is then linear in u, and the largest feasible u is a minimum of quotients. The picture of a convex
 * frame is convex, so its four corners suffice.
 *
 * @param window  what is shown at zoom 1, about the middle; the source's whole frame when left out
 * @returns Infinity when no zoom helps: the centre of the frame already lies outside the source.
 */
export function neededZoom(
  correction: Matrix3,
  shift: Pick<Framing, 'shiftX' | 'shiftY'>,
  source: Size,
  window: Size = source,
): number {
  return zoomWithin(invert(correction), shift, source, window);
}

/** @param m  steadied coordinates to the source's */
function zoomWithin(
  m: Matrix3,
  shift: Pick<Framing, 'shiftX' | 'shiftY'>,
  source: Size,
  window: Size,
): number {
  const { width: w, height: h } = source;
  const cx = w / 2;
  const cy = h / 2;
  let u = Infinity;
  const keep = (at0: number, slope: number): void => {
    if (at0 < 0) u = Math.min(u, slope > 0 ? -1 : 0);
    else if (slope < 0) u = Math.min(u, at0 / -slope);
  };
  const x0 = m[0] * cx + m[1] * cy + m[2];
  const y0 = m[3] * cx + m[4] * cy + m[5];
  const d0 = m[6] * cx + m[7] * cy + m[8];
  for (const sx of [-1, 1]) {
    for (const sy of [-1, 1]) {
      const kx = (sx * window.width) / 2 - shift.shiftX;
      const ky = (sy * window.height) / 2 - shift.shiftY;
      const x1 = m[0] * kx + m[1] * ky;
      const y1 = m[3] * kx + m[4] * ky;
      const d1 = m[6] * kx + m[7] * ky;
      keep(d0, d1);
      keep(x0, x1);
      keep(y0, y1);
      keep(w * d0 - x0, w * d1 - x1);
      keep(h * d0 - y0, h * d1 - y1);
    }
  }
  return u > 0 ? 1 / u : Infinity;
}

/** Places on each side of the frame's border that are looked at where a warp is no matrix. */
const LOOKS_A_SIDE = 96;
/** The smallest zoom that is looked for then. */
const LEAST_ZOOM = 0.05;

/**
 * {@link neededZoom} for any warp: exact for a matrix, for a mesh by places along the frame's border, to a hundred
 * thousandth. What lies between two places may reach beyond the edge by what the mesh bends there.
 *
 * @param toSource  steadied coordinates to the source's
 */
export function neededZoomThrough(
  toSource: Warp,
  shift: Pick<Framing, 'shiftX' | 'shiftY'>,
  source: Size,
  window: Size = source,
): number {
  const m = warpMatrix(toSource);
  if (m) return zoomWithin(m, shift, source, window);
  const place = evaluatorOf(toSource);
  const inside = (x: number, y: number) => {
    const p = place.at(x, y);
    return p.x >= 0 && p.y >= 0 && p.x <= source.width && p.y <= source.height;
  };
  const [cx, cy] = [source.width / 2, source.height / 2];
  const border = Array.from({ length: LOOKS_A_SIDE + 1 }, (_, i) => i / LOOKS_A_SIDE - 0.5).flatMap((t) => [
    [t, -0.5],
    [t, 0.5],
    [-0.5, t],
    [0.5, t],
  ]);
  const fits = (u: number) =>
    border.every(([kx, ky]) =>
      inside(cx + u * (kx * window.width - shift.shiftX), cy + u * (ky * window.height - shift.shiftY)),
    );
  const u = lastThatHolds(0, 1 / LEAST_ZOOM, fits);
  return u > 1e-6 ? 1 / u : Infinity;
}

export interface FitZoom {
  /** The smallest zoom at which no frame of the range shows an edge; Infinity when there is none. */
  readonly zoom: number;
  /** The frame that forces it. */
  readonly frame: number;
}

/** The largest needed zoom over frames `from` to `to`, both included. */
export function fitZoom(needed: Float64Array, from: number, to: number): FitZoom {
  let frame = from;
  for (let i = from; i <= to; i++) if (needed[i] > needed[frame]) frame = i;
  return { zoom: needed[frame], frame };
}

/** True when a frame that needs `needed` shows an edge at `zoom`; a billionth is forgiven for rounding. */
export function showsEdge(needed: number, zoom: number): boolean {
  return needed > zoom * (1 + 1e-9);
}

/**
 * The smallest zoom, frame by frame, that shows no edge and never changes faster than `rate`: the upper envelope of
 * the needed zooms under a slope limit (a dilation by a cone, in two passes). Never below 1. Frames that no zoom
 * helps are passed over.
 *
 * @param rate  natural log of zoom a frame
 * @returns a zoom for every frame; outside `from` to `to` that of the nearest end
 */
export function breathingZoom(needed: Float64Array, from: number, to: number, rate: number): Float64Array {
  const logs = needed.map((z, i) =>
    i < from || i > to || !Number.isFinite(z) ? 0 : Math.max(0, Math.log(z)),
  );
  for (let i = from + 1; i <= to; i++) logs[i] = Math.max(logs[i], logs[i - 1] - rate);
  for (let i = to - 1; i >= from; i--) logs[i] = Math.max(logs[i], logs[i + 1] - rate);
  return logs.map((_, i) => Math.exp(logs[Math.min(to, Math.max(from, i))]));
}

/** Frames of the range that need the most zoom, worst first: the peaks of the curve, each once. */
export function worstFrames(needed: Float64Array, from: number, to: number, most = 12): number[] {
  const peaks: number[] = [];
  const at = (i: number) => (i < from || i > to ? -Infinity : needed[i]);
  for (let i = from; i <= to; i++) {
    if (at(i) > 1 + 1e-9 && at(i) > at(i - 1) && at(i) >= at(i + 1)) peaks.push(i);
  }
  return peaks.sort((a, b) => needed[b] - needed[a]).slice(0, most);
}
