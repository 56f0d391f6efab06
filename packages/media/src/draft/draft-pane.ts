import { pixelRow } from '@lurn/kernels';
import { before, evenMatrix, evaluatorOf, type Matrix3 } from '@lurn/core/geometry';
import type { ChromaSiting } from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan';
import { coverage, fold } from '@lurn/core/warp';
import type { Laying, Pane, PaneEdges } from '../drawer.js';
import type { ColourCoding } from '../gl/colour.js';
import type { Picture } from '../picture.js';
import type { Part } from './exact-picture.js';
import { greyPixel, laidOver, toPixel, type ColourTables, type Raster } from './raster.js';
import { pixelAt, sampled, type Halver, type Sampled } from './sampled.js';

export interface DraftLook {
  readonly coding: ColourCoding & { readonly siting: ChromaSiting };
  readonly tables: ColourTables;
  readonly halver: Halver;
}

/** What is seen where nothing is: as in the exact picture, squares of eight pixels from the lower left corner. */
const CHEQUER = [greyPixel(0.36), greyPixel(0.46)];

/**
 * Draws a picture into a pane with the processor alone: halved planes, four samples a pixel, no anti-aliased edges.
 * For showing motion at the clip's rate where no graphics card draws; what stands still is drawn exactly elsewhere.
 * Coordinates, colours and what lies beyond the edges are those of the exact picture; borrowed sheets do not fade.
 *
 * @param raster  is drawn over where the pane shows its frame; elsewhere it stays as it is
 * @param pane    its `toFrame` only scales and shifts
 * Cost: some 40 operations a pixel inside the picture, a few times that beyond its edges or in perspective.
 */
export function draftPane(
  raster: Raster,
  picture: Picture,
  pane: Pane,
  { coding, tables, halver }: DraftLook,
  laying: Laying = 'over',
): void {
  const nearest = pane.quality === 'nearest';
  const own = placed(sampled(picture, pane.toLuma, pane, coding.siting, halver, nearest));
  const edges = pane.edges ?? edgesWithout(coding);
  const [fillY, fillU, fillV] = edges.colour.map(Math.round);
  const beyond: Beyond = {
    mode: edges.mode,
    fill: toPixel(tables, fillY, fillU, fillV),
    donors: edges.donors.map((d) =>
      placed(sampled(d.picture, d.toLuma, pane, coding.siting, halver, nearest, d.offset)),
    ),
  };
  const { pixels, width, height } = raster;
  const { left, right, top, bottom } = shownPart(raster, pane);
  const negative = laying === 'half negative';
  const laid = laying === 'over' ? null : new Int32Array(Math.max(0, right - left));
  const even = nearest ? null : evenMatrix(own.toLuma);
  const whole = wholePart(own);
  // Where it is not even: places of a row, one every so many pixels.
  const bent = even || nearest ? null : new BentRows(own, right - left);
  const between = !nearest && FINE_CHROMA > own.chromaX * own.place.scaleAt(pane.width / 2, pane.height / 2);
  for (let j = top; j < bottom; j++) {
    const row = j * width;
    const v = j - pane.y + 0.5;
    const singly = (first: number, end: number) => {
      for (let i = first; i < end; i++) {
        const chequer = ((i >> 3) + ((height - 1 - j) >> 3)) & 1;
        const pixel = pixelSeen(own, i - pane.x + 0.5, v, beyond, chequer, tables);
        pixels[row + i] = laid ? laidOver(pixel, pixels[row + i], negative) : pixel;
      }
    };
    if (bent) {
      const count = right - left;
      bent.look(left - pane.x + 0.5, v);
      for (let k = 0, end = 0; k < count; k = end) {
        const drawn = bent.isWithin(k / STEP, whole);
        for (end = k + STEP; end < count && bent.isWithin(end / STEP, whole) === drawn;) end += STEP;
        end = Math.min(end, count);
        if (!drawn) singly(left + k, left + end);
        else if (!laid) drawBent(own, bent, k, end, pixels, row + left, tables, between);
        else {
          drawBent(own, bent, k, end, laid, 0, tables, between);
          for (let i = k; i < end; i++)
            pixels[row + left + i] = laidOver(laid[i], pixels[row + left + i], negative);
        }
      }
      continue;
    }
    const run = even ? runWithin(even, whole, left - pane.x, right - pane.x, v) : null;
    if (!run) {
      singly(left, right);
      continue;
    }
    const [from, to] = [run.from + pane.x, run.to + pane.x];
    singly(left, from);
    if (!laid) drawRun(own, even!, run.from, v, pixels, row + from, row + to, tables);
    else {
      drawRun(own, even!, run.from, v, laid, 0, to - from, tables);
      for (let i = from; i < to; i++) pixels[row + i] = laidOver(laid[i - from], pixels[row + i], negative);
    }
    singly(to, right);
  }
}

/** What lies beyond the edges where a pane does not say: black. */
export function edgesWithout(coding: ColourCoding): PaneEdges {
  return { mode: 'colour', colour: [coding.range === 'pc' ? 0 : 16, 128, 128], donors: [] };
}

/** Lays the chequer over what lies beyond a picture's edge, as far as the picture does not cover it. */
export function openBeyond(
  { width, height, pixels }: Raster,
  pane: Pane,
  { left, right, top, bottom }: Part,
  luma: Size,
): void {
  const place = evaluatorOf(pane.toLuma);
  for (let j = top; j < bottom; j++)
    for (let i = left; i < right; i++) {
      const { x, y } = place.at(i - pane.x + 0.5, j - pane.y + 0.5);
      const cover = coverage(x, y, luma.width, luma.height);
      if (cover >= 1) continue;
      const at = j * width + i;
      const open = CHEQUER[((i >> 3) + ((height - 1 - j) >> 3)) & 1];
      let pixel = 255 << 24;
      for (let shift = 0; shift < 24; shift += 8) {
        const [seen, beyond] = [(pixels[at] >> shift) & 255, (open >> shift) & 255];
        pixel |= Math.round(beyond + cover * (seen - beyond)) << shift;
      }
      pixels[at] = pixel;
    }
}

/** The part of the canvas, in whole pixels, in which a pane shows its frame. */
export function shownPart(raster: Pick<Raster, 'width' | 'height'>, pane: Pane): Part {
  const [a, , c, , e, f] = pane.toFrame;
  const [width, height] = pane.frameSize;
  const first = (shift: number, factor: number) => Math.ceil(-shift / factor - 0.5);
  const end = (shift: number, factor: number, size: number) => Math.floor((size - shift) / factor + 0.5);
  return {
    left: Math.max(0, pane.x, pane.x + first(c, a)),
    right: Math.min(raster.width, pane.x + Math.min(pane.width, end(c, a, width))),
    top: Math.max(0, pane.y, pane.y + first(f, e)),
    bottom: Math.min(raster.height, pane.y + Math.min(pane.height, end(f, e, height))),
  };
}

interface Beyond {
  readonly mode: NonNullable<Pane['edges']>['mode'];
  /** The colour beyond the edges, as a pixel. */
  readonly fill: number;
  readonly donors: readonly Placed[];
}

/** A sampled picture that can be asked where the pane's pixels lie in it. */
interface Placed extends Sampled {
  readonly place: ReturnType<typeof evaluatorOf>;
}

function placed(from: Sampled): Placed {
  return { ...from, place: evaluatorOf(from.toLuma) };
}

/** One pixel anywhere in the pane. */
function pixelSeen(
  own: Placed,
  u: number,
  v: number,
  { mode, fill, donors }: Beyond,
  chequer: number,
  tables: ColourTables,
): number {
  const seen = pixelWithin(own, u, v, tables, mode === 'stretched' || mode === 'mirrored' ? mode : null);
  if (seen !== null) return seen;
  if (mode === 'transparent') return CHEQUER[chequer];
  for (const donor of donors) {
    const lent = pixelWithin(donor, u, v, tables, null);
    if (lent !== null) return lent;
  }
  return fill;
}

/** The pixel where a picture shows it; null beyond its edges, unless it goes on there. */
function pixelWithin(
  from: Placed,
  u: number,
  v: number,
  tables: ColourTables,
  goesOn: 'stretched' | 'mirrored' | null,
): number | null {
  const { x, y } = from.place.at(u, v);
  const { width, height } = from.luma;
  if (x >= 0 && y >= 0 && x <= width && y <= height) return pixelAt(from, x, y, tables);
  return goesOn && pixelAt(from, fold(x, width, goesOn), fold(y, height, goesOn), tables);
}

/** Kept free of the outermost centres, so that rounding of {@link drawRun} never reads beyond a plane. */
const SPARE = 0.02;

/** Where all four samples round a place are there, in luma and in chroma. */
function wholePart({ luma, u, chromaX, chromaY, chromaLeft, chromaTop }: Sampled): Part {
  const first = 0.5 + SPARE;
  return {
    left: Math.max(first, (first - chromaLeft) / chromaX),
    right: Math.min(luma.width - first, (u.width - first - chromaLeft) / chromaX),
    top: Math.max(first, (first - chromaTop) / chromaY),
    bottom: Math.min(luma.height - first, (u.height - first - chromaTop) / chromaY),
  };
}

/** The pixels [from, to) of a row whose centres an affine map takes into a part; null for none. */
function runWithin(
  m: Matrix3,
  part: Part,
  left: number,
  right: number,
  v: number,
): { from: number; to: number } | null {
  let [from, to] = [left, right];
  const keep = (at: number, step: number, low: number, high: number) => {
    if (Math.abs(step) < 1e-12) {
      if (at < low || at > high) to = from;
      return;
    }
    const [a, b] = [(low - at) / step, (high - at) / step];
    from = Math.max(from, Math.ceil(Math.min(a, b) - 0.5));
    to = Math.min(to, Math.floor(Math.max(a, b) - 0.5) + 1);
  };
  keep(m[1] * v + m[2], m[0], part.left, part.right);
  keep(m[4] * v + m[5], m[3], part.top, part.bottom);
  return from < to ? { from, to } : null;
}

/** Pixels from one place that is worked out to the next; in between they go in a straight line. */
const STEP = 8;

/** The places of a row of pixels where they do not lie evenly. */
class BentRows {
  readonly xs: Float64Array;
  readonly ys: Float64Array;
  private readonly every: ReturnType<typeof evaluatorOf>;

  constructor({ toLuma }: Sampled, count: number) {
    const nodes = Math.ceil(count / STEP) + 1;
    this.xs = new Float64Array(nodes);
    this.ys = new Float64Array(nodes);
    this.every = evaluatorOf(before(toLuma, [STEP, 0, 0, 0, 1, 0, 0, 0, 1]));
  }

  look(u: number, v: number): void {
    this.every.row(v, u / STEP, u / STEP + this.xs.length, this.xs, this.ys);
  }

  /** True where the pixels from the place `k` to the next all lie in a part. */
  isWithin(k: number, { left, right, top, bottom }: Part): boolean {
    const { xs, ys } = this;
    const inside = (i: number) => xs[i] > left && xs[i] < right && ys[i] > top && ys[i] < bottom;
    return inside(k) && inside(k + 1);
  }
}

/**
 * Draws pixels of a row that lie wholly in the picture, as {@link drawRun} does, step by step.
 *
 * @param from, to  of the row's pixels, `from` a whole number of steps; the row's first is at `first`
 */
function drawBent(
  own: Sampled,
  { xs, ys }: BentRows,
  from: number,
  to: number,
  pixels: Int32Array,
  first: number,
  tables: ColourTables,
  between: boolean,
): void {
  const { chromaX, chromaY, chromaLeft, chromaTop } = own;
  const centre = between ? 0.5 : 0;
  for (let start = from; start < to; start += STEP) {
    const n = start / STEP;
    const [dx, dy] = [(xs[n + 1] - xs[n]) / STEP, (ys[n + 1] - ys[n]) / STEP];
    STRETCH[0] = fixed(xs[n] - 0.5);
    STRETCH[1] = fixed(ys[n] - 0.5);
    STRETCH[2] = fixed(dx);
    STRETCH[3] = fixed(dy);
    STRETCH[4] = fixed(xs[n] * chromaX + chromaLeft - centre);
    STRETCH[5] = fixed(ys[n] * chromaY + chromaTop - centre);
    STRETCH[6] = fixed(dx * chromaX);
    STRETCH[7] = fixed(dy * chromaY);
    drawStretch(own, STRETCH, pixels, first + start, first + Math.min(to, start + STEP), tables, between);
  }
}

/** What one stretch of pixels begins with; used anew by each: no memory is made in the loop. */
const STRETCH = new Int32Array(8);

/** Whole numbers of 1/65536, which the compiler knows to be so: with others each sample costs twice as much. */
const fixed = (places: number) => Math.round(places * 65536) | 0;

/** With this many chroma samples a pixel, or more, the nearest one will do: half of the work is chroma's. */
const FINE_CHROMA = 0.5;

/**
 * Draws a run of pixels that lies wholly in the picture, by an affine map.
 *
 * @param u0  the pane's column of the first pixel
 */
function drawRun(
  own: Sampled,
  m: Matrix3,
  u0: number,
  v: number,
  pixels: Int32Array,
  from: number,
  to: number,
  tables: ColourTables,
): void {
  const { chromaX, chromaY, chromaLeft, chromaTop } = own;
  const x = m[0] * (u0 + 0.5) + m[1] * v + m[2];
  const y = m[3] * (u0 + 0.5) + m[4] * v + m[5];
  const lx = fixed(x - 0.5);
  const ly = fixed(y - 0.5);
  const between = chromaX * Math.hypot(m[0], m[3]) < FINE_CHROMA;
  const centre = between ? 0.5 : 0;
  let cx = fixed(x * chromaX + chromaLeft - centre);
  const cy = fixed(y * chromaY + chromaTop - centre);
  const [lxStep, lyStep] = [fixed(m[0]), fixed(m[3])];
  const [cxStep, cyStep] = [fixed(m[0] * chromaX), fixed(m[3] * chromaY)];
  const [luma, uPlane, vPlane] = [own.luma.data, own.u.data, own.v.data];
  const [lumaRow, chromaRow] = [own.luma.stride, own.u.stride];
  // Pictures that were drawn as large as the pane: every pixel is a sample.
  const pairs = cxStep === 32768;
  const asTheyAre = lxStep === 65536 && lyStep === 0 && cyStep === 0 && ((lx | ly) & 65535) === 0;
  if (!between && asTheyAre && (pairs || cxStep === 65536)) {
    let k = (ly >> 16) * lumaRow + (lx >> 16);
    let at = from;
    // The second of two by itself, so that what follows begins with a first one.
    if (pairs && cx & 32768) {
      const c = (cy >> 16) * chromaRow + (cx >> 16);
      pixels[at++] = toPixel(tables, luma[k++], uPlane[c], vPlane[c]);
      cx += cxStep;
    }
    const row = {
      y: luma,
      u: uPlane,
      v: vPlane,
      luma: k,
      chroma: (cy >> 16) * chromaRow + (cx >> 16),
      pairs,
    };
    if (at < to) pixelRow(row, to - at, tables.code, pixels, at);
    return;
  }
  STRETCH.set([lx, ly, lxStep, lyStep, cx, cy, cxStep, cyStep]);
  drawStretch(own, STRETCH, pixels, from, to, tables, between);
}

/**
 * Draws pixels whose places go on by even steps, in whole numbers of 1/65536 of a sample. Nothing is called in this loop:
 * it is what playing costs.
 *
 * @param stretch  places in luma and their steps, then those in chroma
 */
function drawStretch(
  own: Sampled,
  stretch: Int32Array,
  pixels: Int32Array,
  from: number,
  to: number,
  { y: ty, rv, gu, gv, bu }: ColourTables,
  between: boolean,
): void {
  let lx = stretch[0];
  let ly = stretch[1];
  const lxStep = stretch[2];
  const lyStep = stretch[3];
  let cx = stretch[4];
  let cy = stretch[5];
  const cxStep = stretch[6];
  const cyStep = stretch[7];
  const luma = own.luma.data;
  const uPlane = own.u.data;
  const vPlane = own.v.data;
  const lumaRow = own.luma.stride | 0;
  const chromaRow = own.u.stride | 0;
  const end = to | 0;
  for (let at = from | 0; at < end; at = (at + 1) | 0) {
    let k = (ly >> 16) * lumaRow + (lx >> 16);
    let fx = (lx >> 8) & 255;
    let fy = (ly >> 8) & 255;
    let above = (luma[k] << 8) + fx * (luma[k + 1] - luma[k]);
    k += lumaRow;
    let below = (luma[k] << 8) + fx * (luma[k + 1] - luma[k]);
    const l = ty[((above << 8) + fy * (below - above) + 32768) >> 16];
    k = (cy >> 16) * chromaRow + (cx >> 16);
    let u = uPlane[k];
    let w = vPlane[k];
    if (between) {
      fx = (cx >> 8) & 255;
      fy = (cy >> 8) & 255;
      const j = k + chromaRow;
      above = (u << 8) + fx * (uPlane[k + 1] - u);
      below = (uPlane[j] << 8) + fx * (uPlane[j + 1] - uPlane[j]);
      u = ((above << 8) + fy * (below - above) + 32768) >> 16;
      above = (w << 8) + fx * (vPlane[k + 1] - w);
      below = (vPlane[j] << 8) + fx * (vPlane[j + 1] - vPlane[j]);
      w = ((above << 8) + fy * (below - above) + 32768) >> 16;
    }
    let r = (l + rv[w]) >> 16;
    let g = (l + gu[u] + gv[w]) >> 16;
    let b = (l + bu[u]) >> 16;
    if ((r | g | b) & ~255) {
      r = r < 0 ? 0 : r > 255 ? 255 : r;
      g = g < 0 ? 0 : g > 255 ? 255 : g;
      b = b < 0 ? 0 : b > 255 ? 255 : b;
    }
    pixels[at] = (255 << 24) | (b << 16) | (g << 8) | r;
    lx = (lx + lxStep) | 0;
    ly = (ly + lyStep) | 0;
    cx = (cx + cxStep) | 0;
    cy = (cy + cyStep) | 0;
  }
}
