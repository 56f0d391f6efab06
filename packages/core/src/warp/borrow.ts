import type { Size } from '../framing/framing.js';
import { invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import type { Plane } from '../picture/plane.js';
import { coverage, sampleCubic } from './warp-plane.js';

/** Another frame of the shot from which edges are filled. */
export interface Donor {
  readonly frame: number;
  /** Output pixels to the donor's source pixels. */
  readonly toSource: Matrix3;
}

/** Donors of one frame at the most. */
export const MOST_DONORS = 4;
/** Cells across and down of the grid on which coverage is judged. */
const CELLS = [48, 27] as const;
/** A donor this many frames away counts for half of one that is near. */
const HALF_LIFE = 20;
/** A donor's outermost pixels are not borrowed: encoders and lenses are weak there. */
const RIM = 2;
/** Own and borrowed picture pass over into each other within this share of the picture's height. */
const FEATHER = 1 / 30;
/** Bytes that the donors of a whole render may take. */
const DONOR_BYTES = 256e6;

/** Every how many frames one is kept to borrow from: all of them, unless the shot is too large for memory. */
export function donorStride({ width, height }: Size, frames: number): number {
  return Math.max(1, Math.ceil((frames * 1.5 * width * height) / DONOR_BYTES));
}

/** Width of the passing over, in source pixels. */
export function featherOf({ height }: Size): number {
  return Math.max(4, height * FEATHER);
}

export interface BorrowPlan {
  /** The nearest in time first. */
  readonly donors: readonly Donor[];
  /** Share of the output that neither the frame nor any donor shows: nobody ever saw it. */
  readonly unseen: number;
}

/**
 * Chooses from which frames the edges of one are filled: those that show most of what is missing, the nearer in time
 * the better, until all is covered that can be.
 *
 * @param picture  source pixels of `frame` to output pixels
 * @param motion   M of a frame: reference-frame coordinates to the frame's
 * @param candidates  frames that may be borrowed from
 * Cost: at most candidates x missing grid points; nothing where no edge shows.
 */
export function planBorrow(
  frame: number,
  picture: Matrix3,
  motion: (frame: number) => Matrix3,
  candidates: readonly number[],
  source: Size,
  output: Size,
): BorrowPlan {
  const back = invert(picture);
  const inside = (m: Matrix3, x: number, y: number, rim: number) => {
    const w = m[6] * x + m[7] * y + m[8];
    const px = (m[0] * x + m[1] * y + m[2]) / w;
    const py = (m[3] * x + m[4] * y + m[5]) / w;
    return px >= rim && py >= rim && px <= source.width - rim && py <= source.height - rim;
  };
  const places: { x: number; y: number }[] = [];
  for (let r = 0; r <= CELLS[1]; r++) {
    for (let c = 0; c <= CELLS[0]; c++) {
      const at = { x: (c / CELLS[0]) * output.width, y: (r / CELLS[1]) * output.height };
      if (!inside(back, at.x, at.y, 0)) places.push(at);
    }
  }
  if (places.length === 0) return { donors: [], unseen: 0 };
  const home = multiply(invert(motion(frame)), back);
  // The nearest in time first: once a near one shows much, those far away need not be looked at.
  const options = candidates
    .filter((f) => f !== frame)
    .sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame))
    .map((f): Donor => ({ frame: f, toSource: multiply(motion(f), home) }));
  const donors: Donor[] = [];
  let missing = places;
  while (missing.length > 0 && donors.length < MOST_DONORS) {
    let best: Donor | null = null;
    let most = 0;
    for (const option of options) {
      const worth = 1 / (1 + Math.abs(option.frame - frame) / HALF_LIFE);
      if (worth * missing.length <= most) break;
      let seen = 0;
      for (const p of missing) if (inside(option.toSource, p.x, p.y, RIM)) seen++;
      if (seen * worth > most) {
        most = seen * worth;
        best = option;
      }
    }
    if (!best) break;
    const { toSource } = best;
    donors.push(best);
    missing = missing.filter((p) => !inside(toSource, p.x, p.y, RIM));
  }
  donors.sort((a, b) => Math.abs(a.frame - frame) - Math.abs(b.frame - frame));
  const unseen = missing.filter((p) => !donors.some((d) => inside(d.toSource, p.x, p.y, -1e-6)));
  return { donors, unseen: unseen.length / ((CELLS[0] + 1) * (CELLS[1] + 1)) };
}

/** One picture's plane in a stack: how the output lies in it, and what is added to its values. */
export interface Sheet {
  readonly plane: Plane;
  /** Output samples to samples of this plane. */
  readonly toSource: Matrix3;
  readonly offset: number;
}

/**
 * Lays borrowed sheets under a frame's own where its picture ends. Each sheet fades towards its rim over `feather`
 * samples, but only as far as a sheet below it shows something there: no seam, and no fading into nothing. Where no
 * sheet shows anything the output stays as it is.
 *
 * @param sheets   the frame's own first, then the donors, the nearest first
 * @param output   already drawn from the first sheet, with a colour beyond its edge
 * @param feather  in samples of these planes
 * Cost: samples near and beyond the edge, times sheets. The preview's shader does the same.
 */
export function borrowPlane(sheets: readonly Sheet[], output: Plane, feather: number, fill: number): void {
  const depth = new Float64Array(sheets.length);
  const at = sheets.map(() => ({ x: 0, y: 0 }));
  for (let j = 0; j < output.height; j++) {
    for (let i = 0; i < output.width; i++) {
      const own = place(sheets[0], i + 0.5, j + 0.5, at[0]);
      if (own >= feather) continue;
      depth[0] = own;
      for (let k = 1; k < sheets.length; k++) depth[k] = place(sheets[k], i + 0.5, j + 0.5, at[k]);
      let value = fill;
      let below = 0;
      for (let k = sheets.length - 1; k >= 0; k--) {
        const { plane, offset } = sheets[k];
        const cover = coverage(at[k].x, at[k].y, plane.width, plane.height);
        if (cover > 0) {
          const ramp = smooth(depth[k] / feather);
          const alpha = cover * (1 - below * (1 - ramp));
          value += alpha * (clip(sampleCubic(plane, at[k].x, at[k].y) + offset) - value);
        }
        below = Math.max(below, Math.min(1, Math.max(0, (4 * depth[k]) / feather)));
      }
      output.data[j * output.stride + i] = Math.round(value);
    }
  }
}

/** Where an output place lies in a sheet; returns how far inside its rim. */
function place({ plane, toSource: m }: Sheet, u: number, v: number, at: { x: number; y: number }): number {
  const d = m[6] * u + m[7] * v + m[8];
  at.x = (m[0] * u + m[1] * v + m[2]) / d;
  at.y = (m[3] * u + m[4] * v + m[5]) / d;
  return Math.min(at.x, plane.width - at.x, at.y, plane.height - at.y);
}

function smooth(t: number): number {
  const u = t < 0 ? 0 : t > 1 ? 1 : t;
  return u * u * (3 - 2 * u);
}

function clip(v: number): number {
  return v < 0 ? 0 : v > 255 ? 255 : v;
}

/** Overlapping places that a donor's brightness is matched on at the least. */
const FEWEST_PLACES = 8;

/**
 * What has to be added to a donor's values so that it matches the frame where both are seen, near the frame's edge
 * (exposure flicker): the median difference on a grid. 0 where they do not overlap.
 */
export function donorOffset(own: Sheet, donor: Sheet, output: Size, feather: number): number {
  const near: number[] = [];
  const all: number[] = [];
  const [p, q] = [
    { x: 0, y: 0 },
    { x: 0, y: 0 },
  ];
  for (let r = 0; r <= CELLS[1]; r++) {
    for (let c = 0; c <= CELLS[0]; c++) {
      const x = (c / CELLS[0]) * output.width;
      const y = (r / CELLS[1]) * output.height;
      const depth = place(own, x, y, p);
      if (depth < 1 || place(donor, x, y, q) < 1) continue;
      const difference = nearest(own.plane, p) - nearest(donor.plane, q);
      all.push(difference);
      if (depth < 4 * feather) near.push(difference);
    }
  }
  const chosen = near.length >= FEWEST_PLACES ? near : all;
  if (chosen.length < FEWEST_PLACES) return 0;
  return chosen.sort((a, b) => a - b)[chosen.length >> 1];
}

function nearest({ data, stride, width, height }: Plane, { x, y }: { x: number; y: number }): number {
  return data[Math.min(height - 1, Math.floor(y)) * stride + Math.min(width - 1, Math.floor(x))];
}

/** How much of each output sample a frame covers, 0 to 255: the alpha of a picture with nothing beyond its edges. */
export function coverPlane(output: Plane, toSource: Matrix3, source: Size): void {
  const m = toSource;
  for (let j = 0; j < output.height; j++) {
    for (let i = 0; i < output.width; i++) {
      const [u, v] = [i + 0.5, j + 0.5];
      const d = m[6] * u + m[7] * v + m[8];
      const x = (m[0] * u + m[1] * v + m[2]) / d;
      const y = (m[3] * u + m[4] * v + m[5]) / d;
      output.data[j * output.stride + i] = Math.round(255 * coverage(x, y, source.width, source.height));
    }
  }
}
