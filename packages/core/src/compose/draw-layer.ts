import { IDENTITY } from '../geometry/matrix.js';
import { evaluatorOf } from '../geometry/warp.js';
import type { PlaneCoding } from '../picture/colour.js';
import { peakOf, type AnyPlane } from '../picture/plane.js';
import { sampleCubic } from '../warp/warp-plane.js';
import { chromaWarp } from '../warp/chroma.js';
import type { ChromaSiting } from '../picture/subsampling.js';
import { MIXES } from './blend.js';
import { blurred, grainAt, tintOf } from './layer-effects.js';
import type { PicturePlanes } from './picture-planes.js';
import { extentOf } from './extent.js';
import type { Quad } from '../geometry/homography.js';
import { rangeShare } from './colour-range.js';
import type { SceneContent, SceneLayer, Tint } from './layer.js';
import { toRaster, type Raster } from './raster.js';
import { isEmpty, LayerGrid, type Box, type RowOfColours } from './layer-grid.js';
import { isKeyed, Mattes } from './matte.js';
import { LayerRows } from './layer-rows.js';
import { RasterSampler } from './raster-sampler.js';
import { coloursRoom } from './row-room.js';

/** What layers are drawn with. */
export interface LayerTools {
  /** Planes of other frames' pictures. */
  readonly pictures: (frame: number) => PicturePlanes;
  /** Rasters by their keys; null for one that is not there. */
  readonly rasters: (key: string) => Raster | null;
  readonly coding: PlaneCoding;
  /** Brings a row of a screen's colours into the clip's light; null where they are alike. */
  readonly lit: ((seen: Float32Array) => void) | null;
  readonly siting: ChromaSiting;
  /** The picture without any layer, where one is told apart by it. */
  readonly below?: PicturePlanes;
  /** The frame that is drawn: grain is another on each. */
  readonly frame: number;
  /** Quickly rather than exactly. */
  readonly draft: boolean;
}

/**
 * Draws a layer over a picture. Only samples that it covers are written; where it covers nothing the picture stays as it
 * is, bit for bit.
 *
 * Luma and chroma are drawn each on their own samples. A plain layer is mixed as the planes are; other blends go through
 * red, green and blue, with what the other planes show at a sample.
 *
 * Cost: what the layer covers; a distance field once an outline.
 */
export function drawLayer(layer: SceneLayer, out: PicturePlanes, tools: LayerTools): void {
  if (layer.opacity <= 0) return;
  const extent = extentOf(layer, out.y, tools.rasters);
  if (isEmpty(extent)) return;
  // Chroma looks at luma as it is below the layer, and luma at chroma.
  const keep = needsColours(layer) ? { ...out, u: copied(out.u), v: copied(out.v) } : out;
  new LayerPass(layer, new LayerGrid('chroma', out, tools.siting), out, tools).draw(extent);
  new LayerPass(layer, new LayerGrid('luma', keep, tools.siting), out, tools).draw(extent);
}

function needsColours({ content, blend, mattes }: SceneLayer): boolean {
  return blend !== 'normal' || content.kind === 'tinted' || isKeyed(mattes);
}

function copied<P extends AnyPlane>(plane: P): P {
  return { ...plane, data: plane.data.slice() };
}

/** One layer on the samples of one grid. */
class LayerPass {
  private readonly peak: number;
  private readonly under = new Float64Array(3);
  private readonly code = new Float64Array(3);

  constructor(
    private readonly layer: SceneLayer,
    private readonly grid: LayerGrid,
    private readonly out: PicturePlanes,
    private readonly tools: LayerTools,
  ) {
    this.peak = peakOf(out.y);
  }

  draw(extent: Box): void {
    const { layer, grid, out, tools } = this;
    const box = grid.box(extent);
    if (isEmpty(box)) return;
    const n = box.x1 - box.x0;
    const mattes = new Mattes(layer.mattes, { ...tools, grid, box, below: tools.below ?? out });
    const shares = new Float64Array(n);
    const colours = needsColours(layer) ? rowOf(n) : null;
    const paint = this.painter(layer.content, box);
    for (let row = box.y0; row < box.y1; row++) {
      shares.fill(layer.opacity);
      if (colours) grid.readRow(row, box, colours);
      mattes.apply(row, colours, shares);
      paint(row, shares, colours);
    }
    if (out.alpha && grid.of === 'luma') this.cover(out.alpha, box, mattes);
  }

  /** Draws a row of the content, each sample by its share. */
  private painter(content: SceneContent, box: Box): Paint {
    const painter = this.painters[content.kind] as (content: SceneContent, box: Box) => Paint;
    return painter(content, box);
  }

  private readonly painters: {
    readonly [K in SceneContent['kind']]: (content: Extract<SceneContent, { kind: K }>, box: Box) => Paint;
  } = {
    raster: (content, box) => this.raster(content, box),
    plain: ({ colour }, box) => this.plain(colour, box),
    picture: (content, box) => this.picture(content, box),
    blurred: ({ radius }, box) =>
      this.changed(box, (region, plane) => blurred(region, plane, this.perOwn(box) * radius)),
    squares: ({ size }, box) => this.squares(size, box),
    tinted: ({ tint }, box) => this.tinted(tint, box),
  };

  private raster(content: SceneContent & { kind: 'raster' }, box: Box): Paint {
    const seen = coloursRoom(box.x1 - box.x0);
    const look = this.looking(content, box);
    return (row, shares, colours) => {
      look(row, seen);
      if (!content.ofClip) this.tools.lit?.(seen);
      this.mixRow(row, box.x0, seen, shares, colours);
    };
  }

  /** Fills a row with a raster's colours, as much of them as its stencil covers. */
  private looking(
    { raster, corners, stencil }: SceneContent & { kind: 'raster' },
    box: Box,
  ): (row: number, seen: Float32Array) => void {
    const { sampler, rows } = this.sampling(raster, corners, box);
    const look = (row: number, seen: Float32Array) => {
      rows.go(row);
      sampler.row(rows.xs, rows.ys, rows.steps, seen);
    };
    if (!stencil) return look;
    const { sampler: cut, rows: places } = this.sampling(stencil.raster, stencil.corners, box);
    const through = new Float32Array(4 * (box.x1 - box.x0));
    return (row, seen) => {
      places.go(row);
      cut.row(places.xs, places.ys, places.steps, through);
      look(row, seen);
      for (let k = 0; k < seen.length; k++) seen[k] *= through[k | 3];
    };
  }

  /** Looks at a raster, and where on it samples of a box lie. */
  private sampling(key: string, corners: Quad, box: Box): { sampler: RasterSampler; rows: LayerRows } {
    const { layer, grid, tools } = this;
    const raster = tools.rasters(key)!;
    const place = grid.placing(layer.toOwn, toRaster(raster, corners)!);
    return { sampler: new RasterSampler(raster, tools.draft), rows: new LayerRows(place, box) };
  }

  private plain([r, g, b]: readonly [number, number, number], box: Box): Paint {
    const seen = coloursRoom(box.x1 - box.x0);
    return (row, shares, colours) => {
      // Blending writes over them.
      for (let k = 0; k < seen.length; k += 4) {
        seen[k] = r / 255;
        seen[k + 1] = g / 255;
        seen[k + 2] = b / 255;
        seen[k + 3] = 1;
      }
      this.tools.lit?.(seen);
      this.mixRow(row, box.x0, seen, shares, colours);
    };
  }

  /** Puts a row of colours, multiplied by their alpha, over the picture from a column on. */
  private mixRow(
    row: number,
    from: number,
    seen: Float32Array,
    shares: Float64Array,
    colours: RowOfColours | null,
  ): void {
    const { layer, grid, tools, peak, out } = this;
    const { coding, frame } = tools;
    const { blend, grain } = layer;
    if (colours && blend !== 'normal') this.blendRow(seen, colours);
    const { kr, kb } = coding;
    const kg = 1 - kr - kb;
    for (const [p, plane] of grid.own) {
      const { data } = plane;
      // Whole numbers that the compiler knows to be so: with others each sample costs twice as much.
      const line = (row * plane.stride + from) | 0;
      const n = shares.length | 0;
      for (let i = 0; i < n; i++) {
        let share = shares[i];
        const a = seen[4 * i + 3];
        if (share <= 0 || a === 0) continue;
        if (out.alpha) {
          // Over what is open itself the layer shows all the more.
          const below = grid.alphaAt(from + i, row, out.alpha, peak);
          const shown = share * a + below * (1 - share * a);
          share = shown > 0 ? share / shown : 0;
        }
        const covers = share * a;
        const r = seen[4 * i];
        const b = seen[4 * i + 2];
        const y = kr * r + kg * seen[4 * i + 1] + kb * b;
        let value =
          p === 0
            ? covers * coding.black + share * coding.span * y
            : covers * coding.middle + share * (p === 1 ? coding.perBlue * (b - y) : coding.perRed * (r - y));
        if (grain > 0 && p === 0)
          value += (covers * grain * grainAt(from + i, row, frame) * coding.span) / 255;
        const q = line + i;
        data[q] = clamped(data[q] * (1 - covers) + value, peak);
      }
    }
  }

  /** Makes colours what they are together with those that lie under them. */
  private blendRow(seen: Float32Array, colours: RowOfColours): void {
    const { under, tools, layer } = this;
    const mixing = MIXES[layer.blend];
    for (let i = 0, k = 0; k < seen.length; i++, k += 4) {
      const a = seen[k + 3];
      if (a === 0) continue;
      tools.coding.toRgb(colours.y[i], colours.u[i], colours.v[i], under);
      for (let c = 0; c < 3; c++) {
        const below = under[c] < 0 ? 0 : under[c] > 1 ? 1 : under[c];
        seen[k + c] = mixing(below, seen[k + c] / a) * a;
      }
    }
  }

  private picture(
    { frame, toPicture, raster, corners }: SceneContent & { kind: 'picture' },
    box: Box,
  ): Paint {
    const { grid, tools, out, peak } = this;
    const { sampler, rows: stencil } = this.sampling(raster, corners, box);
    const lent = tools.pictures(frame);
    const luma = grid.of === 'luma';
    // The lent picture in samples of its own planes.
    const warp = luma ? toPicture : chromaWarp(toPicture, out.subsampling, tools.siting);
    const places = new LayerRows(evaluatorOf(warp), box, 1);
    const planes = grid.own.map(([p, plane]) => [plane, [lent.y, lent.u, lent.v][p]] as const);
    const seen = coloursRoom(box.x1 - box.x0);
    return (row, shares) => {
      stencil.go(row);
      places.go(row);
      sampler.row(stencil.xs, stencil.ys, stencil.steps, seen);
      for (let i = 0; i < shares.length; i++) {
        const covers = shares[i] * seen[4 * i + 3];
        if (covers <= 0) continue;
        for (const [plane, from] of planes) {
          const q = row * plane.stride + box.x0 + i;
          const value = sampleCubic(from, places.xs[i], places.ys[i]);
          plane.data[q] = clamped(plane.data[q] * (1 - covers) + value * covers, peak);
        }
      }
    };
  }

  /** Pixels of the grid for each of the layer's own frame, in the middle of a box. */
  private perOwn({ x0, y0, x1, y1 }: Box): number {
    return 1 / this.grid.placing(this.layer.toOwn, IDENTITY).scaleAt((x0 + x1) / 2, (y0 + y1) / 2);
  }

  /** Shows a changed copy of each plane. */
  private changed(
    box: Box,
    change: (region: Box, plane: AnyPlane) => { data: Float32Array; region: Box },
  ): Paint {
    const { grid, peak } = this;
    const planes = grid.own.map(([, plane]) => ({ plane, ...change(box, plane) }));
    return (row, shares) => {
      for (const { plane, data, region } of planes) {
        const line = (row - region.y0) * (region.x1 - region.x0) + box.x0 - region.x0;
        const q = row * plane.stride + box.x0;
        for (let i = 0; i < shares.length; i++) {
          if (shares[i] <= 0) continue;
          const below = plane.data[q + i];
          plane.data[q + i] = clamped(below + shares[i] * (data[line + i] - below), peak);
        }
      }
    };
  }

  private squares(size: number, box: Box): Paint {
    const { layer, grid } = this;
    const rows = new LayerRows(grid.placing(layer.toOwn, [1 / size, 0, 0, 0, 1 / size, 0, 0, 0, 1]), box);
    const [n, m] = [box.x1 - box.x0, box.y1 - box.y0];
    const [across, down] = [new Int32Array(n * m), new Int32Array(n * m)];
    let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
    for (let j = 0, k = 0; j < m; j++) {
      rows.go(box.y0 + j);
      for (let i = 0; i < n; i++, k++) {
        // Far away, or behind the camera, one cell is as good as another.
        const x = (across[k] = Math.floor(Math.max(-MOST_CELLS, Math.min(MOST_CELLS, rows.xs[i]))));
        const y = (down[k] = Math.floor(Math.max(-MOST_CELLS, Math.min(MOST_CELLS, rows.ys[i]))));
        if (x < left) left = x;
        if (x > right) right = x;
        if (y < top) top = y;
        if (y > bottom) bottom = y;
      }
    }
    const columns = right - left + 1;
    const cells = across.map((x, k) => (down[k] - top) * columns + x - left);
    const count = columns * (bottom - top + 1);
    return this.changed(box, (region, plane) => {
      const sums = new Float64Array(count);
      const counts = new Float64Array(count);
      const data = new Float32Array(n * m);
      for (let j = 0, k = 0; j < m; j++)
        for (let i = 0; i < n; i++, k++) {
          sums[cells[k]] += plane.data[(box.y0 + j) * plane.stride + box.x0 + i];
          counts[cells[k]]++;
        }
      for (let k = 0; k < data.length; k++) data[k] = sums[cells[k]] / counts[cells[k]];
      return { data, region };
    });
  }

  private tinted(tint: Tint, box: Box): Paint {
    const { grid, tools, peak, under } = this;
    const { coding } = tools;
    const change = tintOf(tint, coding);
    const own = grid.own;
    const { code } = this;
    return (row, shares, colours) => {
      const { y, u, v } = colours!;
      for (let i = 0; i < shares.length; i++) {
        let share = shares[i];
        if (share <= 0) continue;
        if (tint.range) {
          coding.toRgb(y[i], u[i], v[i], under);
          share *= rangeShare(tint.range, under, coding.kr, coding.kb);
          if (share <= 0) continue;
        }
        change(y[i], u[i], v[i], code);
        for (const [p, plane] of own) {
          const q = row * plane.stride + box.x0 + i;
          plane.data[q] = clamped(plane.data[q] + share * (code[p] - plane.data[q]), peak);
        }
      }
    };
  }

  /** Makes alpha what picture and layer cover together; what changes the picture alone covers nothing of its own. */
  private cover(alpha: AnyPlane, box: Box, mattes: Mattes): void {
    const { layer, peak } = this;
    const { content } = layer;
    if (content.kind !== 'raster' && content.kind !== 'plain') return;
    const look = content.kind === 'raster' ? this.looking(content, box) : null;
    const keyed = isKeyed(layer.mattes);
    const shares = new Float64Array(box.x1 - box.x0);
    const seen = coloursRoom(shares.length);
    seen.fill(1);
    for (let row = box.y0; row < box.y1; row++) {
      shares.fill(layer.opacity);
      if (!keyed) mattes.apply(row, null, shares);
      look?.(row, seen);
      for (let i = 0; i < shares.length; i++) {
        if (shares[i] <= 0) continue;
        const q = row * alpha.stride + box.x0 + i;
        alpha.data[q] = clamped(alpha.data[q] + shares[i] * seen[4 * i + 3] * (peak - alpha.data[q]), peak);
      }
    }
  }
}

/** Cells on either side of the middle of a layer's own frame. */
const MOST_CELLS = 2000;

type Paint = (row: number, shares: Float64Array, colours: RowOfColours | null) => void;

const rowOf = (n: number): RowOfColours => ({
  y: new Float64Array(n),
  u: new Float64Array(n),
  v: new Float64Array(n),
});

const clamped = (v: number, peak: number) => (v <= 0 ? 0 : v >= peak ? peak : Math.round(v));
