import { median } from 'd3-array';
import type { Size } from '../framing/framing.js';
import { evaluatorOf, type WarpEvaluator, type Warp } from '../geometry/warp.js';
import { peakOf, type AnyPlane } from '../picture/plane.js';
import { coverage, sampleCubic } from './warp-plane.js';

/** Another frame of the shot from which edges are filled. */
export interface Donor {
  readonly frame: number;
  /** Output pixels to the donor's source pixels. */
  readonly toSource: Warp;
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
 * @param toSource  output pixels to source pixels of `frame`
 * @param lent      output pixels to source pixels of another frame
 * @param candidates  frames that may be borrowed from
 * Cost: at most candidates x missing grid points; nothing where no edge shows.
 */
export function planBorrow(
  frame: number,
  toSource: Warp,
  lent: (frame: number) => Warp,
  candidates: readonly number[],
  source: Size,
  output: Size,
): BorrowPlan {
  const inside = (place: WarpEvaluator, x: number, y: number, rim: number) => {
    const p = place.at(x, y);
    return p.x >= rim && p.y >= rim && p.x <= source.width - rim && p.y <= source.height - rim;
  };
  const own = evaluatorOf(toSource);
  const places: { x: number; y: number }[] = [];
  for (let r = 0; r <= CELLS[1]; r++) {
    for (let c = 0; c <= CELLS[0]; c++) {
      const at = { x: (c / CELLS[0]) * output.width, y: (r / CELLS[1]) * output.height };
      if (!inside(own, at.x, at.y, 0)) places.push(at);
    }
  }
  if (places.length === 0) return { donors: [], unseen: 0 };
  // The nearest in time first: once a near one shows much, those far away need not be looked at.
  const options = candidates
    .filter((f) => f !== frame)
    .sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame))
    .map((f) => {
      const warp = lent(f);
      return { frame: f, toSource: warp, place: evaluatorOf(warp) };
    });
  const donors: (typeof options)[number][] = [];
  let missing = places;
  while (missing.length > 0 && donors.length < MOST_DONORS) {
    let best: (typeof options)[number] | null = null;
    let most = 0;
    for (const option of options) {
      const worth = 1 / (1 + Math.abs(option.frame - frame) / HALF_LIFE);
      if (worth * missing.length <= most) break;
      let seen = 0;
      for (const p of missing) if (inside(option.place, p.x, p.y, RIM)) seen++;
      if (seen * worth > most) {
        most = seen * worth;
        best = option;
      }
    }
    if (!best) break;
    const { place } = best;
    donors.push(best);
    missing = missing.filter((p) => !inside(place, p.x, p.y, RIM));
  }
  donors.sort((a, b) => Math.abs(a.frame - frame) - Math.abs(b.frame - frame));
  const unseen = missing.filter((p) => !donors.some((d) => inside(d.place, p.x, p.y, -1e-6)));
  return {
    donors: donors.map((d): Donor => ({ frame: d.frame, toSource: d.toSource })),
    unseen: unseen.length / ((CELLS[0] + 1) * (CELLS[1] + 1)),
  };
}

/** One picture's plane in a stack: how the output lies in it, and what is added to its values. */
export interface Sheet {
  readonly plane: AnyPlane;
  /** Output samples to samples of this plane. */
  readonly toSource: Warp;
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
export function borrowPlane(sheets: readonly Sheet[], output: AnyPlane, feather: number, fill: number): void {
  const peak = peakOf(output);
  const depth = new Float64Array(sheets.length);
  const rows = sheets.map(({ toSource }) => ({
    place: evaluatorOf(toSource),
    xs: new Float64Array(output.width),
    ys: new Float64Array(output.width),
  }));
  for (let j = 0; j < output.height; j++) {
    const reach = (k: number) => rows[k].place.row(j + 0.5, 0.5, output.width + 0.5, rows[k].xs, rows[k].ys);
    reach(0);
    let lent = false;
    for (let i = 0; i < output.width; i++) {
      const own = depthIn(sheets[0].plane, rows[0].xs[i], rows[0].ys[i]);
      if (own >= feather) continue;
      if (!lent) for (let k = 1; k < sheets.length; k++) reach(k);
      lent = true;
      for (let k = 0; k < sheets.length; k++)
        depth[k] = depthIn(sheets[k].plane, rows[k].xs[i], rows[k].ys[i]);
      let value = fill;
      let below = 0;
      for (let k = sheets.length - 1; k >= 0; k--) {
        const { plane, offset } = sheets[k];
        const [x, y] = [rows[k].xs[i], rows[k].ys[i]];
        const cover = coverage(x, y, plane.width, plane.height);
        if (cover > 0) {
          const ramp = smooth(depth[k] / feather);
          const alpha = cover * (1 - below * (1 - ramp));
          value += alpha * (clip(sampleCubic(plane, x, y) + offset, peak) - value);
        }
        below = Math.max(below, Math.min(1, Math.max(0, (4 * depth[k]) / feather)));
      }
      output.data[j * output.stride + i] = Math.round(value);
    }
  }
}

/** How far inside a plane's rim a place lies. */
function depthIn({ width, height }: Size, x: number, y: number): number {
  return Math.min(x, width - x, y, height - y);
}

function smooth(t: number): number {
  const u = t < 0 ? 0 : t > 1 ? 1 : t;
  return u * u * (3 - 2 * u);
}

function clip(v: number, peak: number): number {
  return v < 0 ? 0 : v > peak ? peak : v;
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
  const [ownPlace, donorPlace] = [evaluatorOf(own.toSource), evaluatorOf(donor.toSource)];
  for (let r = 0; r <= CELLS[1]; r++) {
    for (let c = 0; c <= CELLS[0]; c++) {
      const x = (c / CELLS[0]) * output.width;
      const y = (r / CELLS[1]) * output.height;
      const p = ownPlace.at(x, y);
      const depth = depthIn(own.plane, p.x, p.y);
      if (depth < 1) continue;
      const q = donorPlace.at(x, y);
      if (depthIn(donor.plane, q.x, q.y) < 1) continue;
      const difference = nearest(own.plane, p) - nearest(donor.plane, q);
      all.push(difference);
      if (depth < 4 * feather) near.push(difference);
    }
  }
  const chosen = near.length >= FEWEST_PLACES ? near : all;
  if (chosen.length < FEWEST_PLACES) return 0;
  return median(chosen) ?? 0;
}

function nearest({ data, stride, width, height }: AnyPlane, { x, y }: { x: number; y: number }): number {
  return data[Math.min(height - 1, Math.floor(y)) * stride + Math.min(width - 1, Math.floor(x))];
}

/** How much of each output sample a frame covers, 0 to the largest value: the alpha of a picture without edges. */
export function coverPlane(output: AnyPlane, toSource: Warp, source: Size): void {
  const place = evaluatorOf(toSource);
  const [xs, ys] = [new Float64Array(output.width), new Float64Array(output.width)];
  const peak = peakOf(output);
  for (let j = 0; j < output.height; j++) {
    place.row(j + 0.5, 0.5, output.width + 0.5, xs, ys);
    for (let i = 0; i < output.width; i++) {
      const cover = coverage(xs[i], ys[i], source.width, source.height);
      output.data[j * output.stride + i] = Math.round(peak * cover);
    }
  }
}
