import type { Size } from '../framing/framing.js';
import { apply, invert, type Matrix3 } from '../geometry/matrix.js';
import { before, matrixWarp, evaluatorOf, type Warp } from '../geometry/warp.js';
import { PlaneCoding, type ColourCode } from '../picture/colour.js';
import { createPlane, type Plane } from '../picture/plane.js';
import type { ChromaSiting, Subsampling } from '../picture/subsampling.js';
import { chromaToLuma, chromaWarp } from '../warp/chroma.js';
import { warpPlane } from '../warp/warp-plane.js';

/** A frame's picture in eight bits, and where a plate's pixels lie in its luma. */
export interface PlateSheet {
  readonly y: Plane;
  readonly u: Plane;
  readonly v: Plane;
  readonly subsampling: Subsampling;
  readonly toLuma: Warp;
}

/** A sheet on the plate's pixels: luma and both chroma planes at its full size, and where the picture covers it. */
interface Laid {
  readonly planes: readonly [Uint8Array, Uint8Array, Uint8Array];
  readonly covered: Uint8Array;
}

/** Fewer frames than this tell nothing of what stays. */
export const FEWEST_FOR_PLATE = 3;
const MOST = 31;
const ROOM = 400e6;

/** From how many frames a plate of a size is made: as many as there is room for, an odd number. */
export function plateFrames({ width, height }: Size): number {
  const fit = Math.floor(ROOM / (4 * width * height));
  return Math.max(FEWEST_FOR_PLATE, Math.min(MOST, fit - 1 + (fit % 2)));
}

/**
 * Which frames a plate is made from: evenly apart among those whose picture covers a good part of it.
 *
 * @param toFrame  places of the plate on a frame; null where that is not known
 * @param own      the frame that the plate stands on: always among them
 */
export function framesForPlate(
  from: number,
  to: number,
  own: number,
  size: Size,
  toFrame: (frame: number) => Matrix3 | null,
): number[] {
  const there: number[] = [];
  for (let f = from; f <= to; f++) {
    const m = f === own ? null : toFrame(f);
    if (f === own || (m && overlap(m, size) >= 0.3)) there.push(f);
  }
  const most = Math.min(there.length, plateFrames(size));
  const chosen = new Set([own]);
  for (let k = 0; k < most; k++)
    chosen.add(there[Math.round((k * (there.length - 1)) / Math.max(1, most - 1))]);
  return [...chosen].sort((a, b) => a - b);
}

/** Which share of a plate lies within a frame. */
function overlap(toFrame: Matrix3, { width, height }: Size): number {
  const N = 6;
  let inside = 0;
  for (let j = 0; j < N; j++)
    for (let i = 0; i < N; i++) {
      const { x, y } = apply(toFrame, ((i + 0.5) / N) * width, ((j + 0.5) / N) * height);
      if (x > 0 && y > 0 && x < width && y < height) inside++;
    }
  return inside / (N * N);
}

/**
 * The median over time of a picture that stands still: what passes through it for less than half of the time is gone.
 * Sheets are taken one by one, so that no more than one picture is held besides what is kept of each.
 *
 * Cost: a warp of each sheet; then some `n log n` operations a sample for `n` sheets.
 */
export class CleanPlate {
  private readonly laid: Laid[] = [];

  constructor(
    private readonly size: Size,
    private readonly siting: ChromaSiting,
  ) {}

  add({ y, u, v, subsampling, toLuma }: PlateSheet): void {
    const { width, height } = this.size;
    // Chroma at every pixel of the plate.
    const back = chromaWarp(toLuma, subsampling, this.siting);
    const toChroma = before(back, invert(chromaToLuma(subsampling, this.siting)));
    const planes = [y, u, v].map((plane, k) => {
      const out = createPlane(width, height);
      warpPlane(plane, out, k === 0 ? toLuma : toChroma, 'stretched');
      return out.data;
    }) as [Uint8Array, Uint8Array, Uint8Array];
    this.laid.push({ planes, covered: coverOf(toLuma, y, this.size) });
  }

  /**
   * The median of what was added, as red, green, blue and alpha in rows; alpha is 0 where no picture was.
   *
   * @param height  of the clip, by which the weights are told where the file does not say
   */
  median(code: ColourCode, height: number): Uint8ClampedArray<ArrayBuffer> {
    const n = this.size.width * this.size.height;
    const out = new Uint8ClampedArray(4 * n);
    const coding = new PlaneCoding(code, height);
    const rgb = new Float64Array(3);
    const values = new Uint8Array(this.laid.length);
    const middle = [0, 0, 0];
    for (let i = 0; i < n; i++) {
      let there = 0;
      for (let p = 0; p < 3; p++) {
        there = 0;
        for (const { planes, covered } of this.laid) if (covered[i]) insert(values, there++, planes[p][i]);
        middle[p] = (values[(there - 1) >> 1] + values[there >> 1]) / 2;
      }
      if (there === 0) continue;
      coding.toRgb(middle[0], middle[1], middle[2], rgb);
      for (let c = 0; c < 3; c++) out[4 * i + c] = 255 * rgb[c];
      out[4 * i + 3] = 255;
    }
    return out;
  }
}

/** Puts a value among the first `n`, which are in order. */
function insert(values: Uint8Array, n: number, value: number): void {
  let k = n;
  for (; k > 0 && values[k - 1] > value; k--) values[k] = values[k - 1];
  values[k] = value;
}

/** 1 where all that a sample is made of lies in the picture. */
function coverOf(warp: Warp, luma: Plane, { width, height }: Size): Uint8Array {
  const covered = new Uint8Array(width * height);
  const place = evaluatorOf(warp);
  const [xs, ys] = [new Float64Array(width), new Float64Array(width)];
  for (let j = 0; j < height; j++) {
    place.row(j + 0.5, 0.5, width + 0.5, xs, ys);
    for (let i = 0; i < width; i++) {
      const [x, y] = [xs[i], ys[i]];
      if (x >= 0.5 && y >= 0.5 && x <= luma.width - 0.5 && y <= luma.height - 0.5) covered[j * width + i] = 1;
    }
  }
  return covered;
}

/** Where a plate's pixels lie in luma as coded. @param fromUpright  upright source pixels to luma samples */
export function plateWarp(toFrame: Matrix3, fromUpright: Matrix3): Warp {
  return before(matrixWarp(fromUpright), toFrame);
}
