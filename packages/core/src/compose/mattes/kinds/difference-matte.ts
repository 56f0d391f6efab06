import { median, quantile } from 'd3-array';
import { translation, type Point } from '../../../geometry/matrix.js';
import { before, type Warp } from '../../../geometry/warp.js';
import { boxMean, GuidedFilter } from '../../../picture/guided-filter.js';
import {
  createPlane,
  floatsOf,
  peakOf,
  planeLike,
  type AnyPlane,
  type Plane,
} from '../../../picture/plane.js';
import { halvedPlane } from '../../../picture/pyramid.js';
import { chromaWarp } from '../../../warp/chroma.js';
import { warpPlane, warpPlaneNarrowly } from '../../../warp/warp-plane.js';
import type { PicturePlanes } from '../../picture-planes.js';
import { carriedTo, onTo, toOwnOf } from '../../seen.js';
import type { MatteGround, MatteKind } from '../matte-kind.js';

/** What differs from a frame on which nothing is in the way: what passes in front. */
export interface DifferenceLook {
  readonly kind: 'difference';
  /** On which nothing is in the way. */
  readonly frame: number;
  /** From which difference on something is in front, and over how much more it comes to be so; of the way to white. */
  readonly reach: number;
  readonly soften: number;
  /** True: the layer is shown beyond it, and not inside. */
  readonly outside: boolean;
}

export interface DifferenceMatte extends DifferenceLook {
  /** Pixels of the scene to source pixels of that frame. */
  readonly toPicture: Warp;
}

/** Colours count for more than brightness: light changes. */
const COLOUR = 1.5;
/** Grain differs as much as a quarter of all do, and a little more. */
const BY_GRAIN = 1.2;
/** It is decided over windows of this radius, along edges of so many of 255 levels; then rims are put on edges over the smaller ones. */
const RADIUS = 10;
const EDGE = 5;
const RIM = 2;
/** ... at so many samples; of more at a half, or a quarter. */
const MOST_SAMPLES = 60_000;
const MOST_HALVINGS = 2;
/** Light and grain are told by one in so many samples. */
const EVERY = 7;

/** How much a picture differs from another frame's, of the way from black to white; and the picture, in eight bits. */
interface Compared {
  readonly off: Float32Array;
  readonly picture: readonly Plane[];
}

/**
 * Compares a picture with another frame's, drawn as it was where it would be if nothing moved but what is ridden on, in
 * brightness and in colour. A change of light all over is taken out, what grain differs by, and what a sample differs by
 * from all of its neighbours alone: rims that are a pixel out of place, or not as sharp, are no difference.
 */
function compared(matte: DifferenceMatte, ground: MatteGround): Compared {
  const { box, below, coding } = ground;
  const [w, h] = [box.x1 - box.x0, box.y1 - box.y0];
  const own = planesOver(ground, below, { x: box.x0, y: box.y0 }, w, h);
  const lent = planesOver(ground, ...drawn(matte, ground), w, h);
  const [some, others] = [someOf(own[0]), someOf(lent[0])];
  const light = median(some.map((v, k) => v - others[k])) ?? 0;
  for (let k = 0; k < w * h; k++) lent[0][k] += light;
  const calmed = (plane: Float32Array) => boxMean(plane, w, h, 1, new Float32Array(w * h));
  const [y, u, v] = own.map((plane, k) => apartBy(calmed(plane), calmed(lent[k]), w, h));
  for (let k = 0; k < y.length; k++)
    y[k] = y[k] / coding.span + (COLOUR * Math.hypot(u[k], v[k])) / coding.chroma;
  const grain = BY_GRAIN * (quantile(someOf(y), 0.25) ?? 0);
  for (let k = 0; k < y.length; k++) y[k] = Math.max(0, y[k] - grain);
  const eighth = 255 / peakOf(below.y);
  const picture = own.map((plane) => inEightBits(plane, eighth, w, h));
  return { off: y, picture };
}

function someOf(values: Float32Array): Float32Array {
  const out = new Float32Array(Math.ceil(values.length / EVERY));
  for (let k = 0; k < out.length; k++) out[k] = values[EVERY * k];
  return out;
}

function inEightBits(values: Float32Array, eighth: number, w: number, h: number): Plane {
  const plane = createPlane(w, h);
  for (let k = 0; k < values.length; k++) plane.data[k] = eighth * values[k];
  return plane;
}

/** What luma and chroma show at the samples of a box, `w` a row. @param first  the box's first sample in these planes */
function planesOver(
  { grid }: MatteGround,
  picture: PicturePlanes,
  { x, y }: Point,
  w: number,
  h: number,
): Float32Array[] {
  const out = [0, 1, 2].map(() => new Float32Array(w * h));
  const row = { y: new Float64Array(w), u: new Float64Array(w), v: new Float64Array(w) };
  for (let j = 0; j < h; j++) {
    grid.readRow(y + j, { x0: x, y0: y, x1: x + w, y1: y + h }, row, picture);
    [row.y, row.u, row.v].forEach((values, k) => out[k].set(values, j * w));
  }
  return out;
}

/** How far samples of either plane lie beyond all those about them in the other, whichever is less. */
function apartBy(a: Float32Array, b: Float32Array, w: number, h: number): Float32Array {
  const [there, back] = [beyondRange(a, b, w, h), beyondRange(b, a, w, h)];
  for (let k = 0; k < there.length; k++) if (back[k] < there[k]) there[k] = back[k];
  return there;
}

/** How far each sample lies beyond the least and the most of the other plane's three by three about it. */
function beyondRange(a: Float32Array, b: Float32Array, w: number, h: number): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0, k = 0; y < h; y++) {
    const [up, down] = [y > 0 ? -w : 0, y + 1 < h ? w : 0];
    for (let x = 0; x < w; x++, k++) {
      const left = x > 0 ? -1 : 0;
      const right = x + 1 < w ? 1 : 0;
      let least = b[k];
      let most = least;
      for (let line = up; line <= down; line += w) {
        for (let q = k + line + left; q <= k + line + right; q++) {
          const value = b[q];
          if (value < least) least = value;
          if (value > most) most = value;
        }
      }
      out[k] = a[k] > most ? a[k] - most : a[k] < least ? least - a[k] : 0;
    }
  }
  return out;
}

/**
 * The other frame's picture about a box, as the picture itself was drawn: what is left between them is no matter of
 * sampling.
 *
 * @returns planes, and where in them the box begins, in samples of its grid
 */
function drawn({ frame, toPicture }: DifferenceMatte, ground: MatteGround): [PicturePlanes, Point] {
  const { box, grid, below, siting, draft } = ground;
  const { subsampling } = below;
  const lent = ground.pictures(frame);
  const draw = draft ? warpPlaneNarrowly : warpPlane;
  // Luma samples a sample of the grid, and from where to where chroma is whole.
  const per = grid.of === 'luma' ? { x: 1, y: 1 } : subsampling;
  const left = Math.floor((box.x0 * per.x) / subsampling.x);
  const top = Math.floor((box.y0 * per.y) / subsampling.y);
  const w = Math.ceil((box.x1 * per.x) / subsampling.x) - left;
  const h = Math.ceil((box.y1 * per.y) / subsampling.y) - top;
  const of = (key: 'y' | 'u' | 'v', warp: Warp, fine: { x: number; y: number }): AnyPlane => {
    const out = planeLike(below[key], w * fine.x, h * fine.y);
    draw(lent[key], out, before(warp, translation(left * fine.x, top * fine.y)), 'stretched');
    return out;
  };
  const toChroma = chromaWarp(toPicture, subsampling, siting);
  const whole = { x: 1, y: 1 };
  const planes = {
    y: of('y', toPicture, subsampling),
    u: of('u', toChroma, whole),
    v: of('v', toChroma, whole),
  };
  const first = { x: box.x0 - (left * subsampling.x) / per.x, y: box.y0 - (top * subsampling.y) / per.y };
  return [{ ...planes, subsampling }, first];
}

/**
 * What passes, decided with its neighbours: what differs by more than something on the whole of a window that keeps to the
 * picture's edges. A difference counts up to a limit, so that its rim is where half of it is.
 *
 * @param perLuma  pixels a sample
 * @returns 0 to 255 a sample
 */
function decided(
  { off, picture }: Compared,
  { reach, soften }: Pick<DifferenceMatte, 'reach' | 'soften'>,
  perLuma: number,
): Uint8Array {
  const [{ width, height }] = picture;
  const halvings = Math.ceil(Math.log2((width * height) / MOST_SAMPLES) / 2);
  const times = Math.min(MOST_HALVINGS, Math.max(0, halvings));
  const small = picture.map((plane) => halvedPlane(plane, times));
  const [{ width: w, height: h }] = small;
  const guide = small.map(floatsOf) as [Float32Array, Float32Array, Float32Array];
  const most = 2 * reach + soften;
  const values = new Float32Array(w * h);
  const counts = new Uint16Array(w * h);
  for (let y = 0, p = 0; y < height; y++) {
    const line = Math.min(h - 1, y >> times) * w;
    for (let x = 0; x < width; x++, p++) {
      const q = line + Math.min(w - 1, x >> times);
      values[q] += off[p] < most ? off[p] : most;
      counts[q]++;
    }
  }
  for (let q = 0; q < values.length; q++) values[q] /= counts[q];
  const wide = (radius: number) => Math.max(1, Math.round(radius / perLuma / 2 ** times));
  new GuidedFilter(guide, w, h, wide(RADIUS), EDGE).apply(values);
  for (let q = 0; q < values.length; q++) {
    const t = soften > 0 ? (values[q] - reach) / soften : values[q] > reach ? 1 : 0;
    values[q] = t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t);
  }
  return new GuidedFilter(guide, w, h, wide(RIM), EDGE).enlarged(values, picture);
}

export const DIFFERENCE_MATTE: MatteKind<DifferenceLook, DifferenceMatte> = {
  shown(matte, on, seen) {
    const own = toOwnOf(on, carriedTo(on, seen), seen);
    const there = carriedTo(on, { ...seen, frame: matte.frame });
    return own && { ...matte, toPicture: onTo(own, there, seen.size) };
  },
  through: (matte, _, both) => ({ ...matte, toPicture: both(matte.toPicture) }),
  frame: ({ frame }) => frame,
  ask(matte, ground) {
    const { outside } = matte;
    const { below, box, grid } = ground;
    const perLuma = grid.of === 'luma' ? 1 : below.subsampling.x;
    const shares = decided(compared(matte, ground), matte, perLuma);
    return (row, _, out) => {
      const line = (row - box.y0) * out.length;
      for (let i = 0; i < out.length; i++) {
        const share = shares[line + i] / 255;
        out[i] = outside ? 1 - share : share;
      }
    };
  },
};
