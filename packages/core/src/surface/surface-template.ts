import { kernelFloats } from '@lurn/kernels';
import type { Closed } from '../geometry/area.js';
import { coverOf } from '../geometry/covers.js';
import { rectangle } from '../geometry/homography.js';
import type { Matrix3, Point } from '../geometry/matrix.js';
import { halvedCover } from '../picture/cover.js';
import type { Plane } from '../picture/plane.js';
import type { Pyramid } from '../picture/pyramid.js';

/** Levels of the pyramid that a surface is looked for on, full size included. */
export const SURFACE_LEVELS = 5;
/** Samples along a block's side, by level: coarse levels have few samples. */
const BLOCK = [16, 12, 8, 8, 8];
/** The least part of a block that must be open for it to count. */
const LEAST_OPEN = 0.4;
/** On its coarsest level a surface has so many samples across at the least. */
const LEAST_ACROSS = 14;
/** Samples that a level is aligned by at the most: of larger surfaces the blocks that tell most. */
const MOST_SAMPLES = 120_000;
/** Parts of a surface, across and down, that each keep their share of the samples. */
const ZONES = 6;
/** The finest level on which a surface is looked for elsewhere. */
export const FIRST_LOOK = 2;
/** Numbers of a homography that are solved for. */
export const PARAMETERS = 8;

/** The open samples of a surface at one size, in blocks, with what the aligner needs of each (units: see {@link SurfaceTemplate.toUnit}). */
export interface TemplateLevel {
  readonly level: number;
  /** Where the samples of block b begin; one more than there are blocks. */
  readonly begins: Int32Array;
  /** Places of the samples, in units. */
  readonly u: Float32Array;
  readonly v: Float32Array;
  /** What is seen there, and how it changes along a unit. */
  readonly values: Float32Array;
  readonly gx: Float32Array;
  readonly gy: Float32Array;
  readonly blocks: readonly Block[];
}

/** Sums over a block's samples that no picture changes. */
export interface Block {
  /** Its corners and middle, in units. */
  readonly probes: readonly Point[];
  readonly count: number;
  readonly sum: number;
  /** Squared deviation from the mean, summed. */
  readonly contrast: number;
  /** Steepest descent images times one, and times the deviation from the mean. */
  readonly byOne: Float64Array;
  readonly byValue: Float64Array;
  /** Products of the steepest descent images; row-major. */
  readonly normal: Float64Array;
  /** Mean squared change a sample: how much texture there is. */
  readonly texture: number;
}

/** How the samples of a template are taken. */
export interface TemplateGrain {
  /** Samples along a block's side, by level. */
  readonly sides: readonly number[];
  /** Every block counts: of more samples than this every second, third ... is taken. Else the blocks that tell most are. */
  readonly everywhere?: number;
}

/** A surface's texture on one frame, ready to be aligned with others. */
export class SurfaceTemplate {
  /** From full size to the coarsest that still has texture enough. */
  readonly levels: readonly TemplateLevel[];
  /** Source pixels of the frame it was taken on to units: about its middle, half its diagonal long. */
  readonly toUnit: Matrix3;
  readonly fromUnit: Matrix3;
  readonly middle: Point;
  /** Half the diagonal of its box, in source pixels. */
  readonly half: number;
  /** The corners of its box, in units. */
  readonly corners: readonly Point[];

  /** The frame's picture on coarse levels, for looking for it elsewhere; null on finer ones. */
  readonly looks: readonly (Plane | null)[];

  /**
   * @param picture  pyramid of the frame; what is closed in it is no part of the surface
   * @param drawn    outlines that add up to the surface, and those left out of it, in source pixels of that frame
   * @param grain    how its samples are taken
   */
  constructor(
    picture: Pyramid,
    drawn: Closed,
    private readonly grain: TemplateGrain = { sides: BLOCK },
  ) {
    const { width, height } = picture.levels[0];
    const box = boxOf(drawn.focus, width, height);
    this.middle = { x: (box.left + box.right) / 2, y: (box.top + box.bottom) / 2 };
    const half = (this.half = Math.max(1, Math.hypot(box.right - box.left, box.bottom - box.top) / 2));
    const { x, y } = this.middle;
    this.toUnit = [1 / half, 0, -x / half, 0, 1 / half, -y / half, 0, 0, 1];
    this.fromUnit = [half, 0, x, 0, half, y, 0, 0, 1];
    const [w, h] = [(box.right - box.left) / (2 * half), (box.bottom - box.top) / (2 * half)];
    this.corners = rectangle(-w, -h, w, h);
    picture.need(SURFACE_LEVELS - 1, box.left - 4, box.top - 4, box.right + 4, box.bottom + 4);
    let closed = coverOf(drawn, width, height);
    const { covered } = picture.levels[0];
    if (covered) closed = closed.map((c, i) => c | covered[i]);
    const across = Math.min(box.right - box.left, box.bottom - box.top);
    this.looks = picture.levels.map((plane, level) => (level < FIRST_LOOK ? null : copyOf(plane)));
    const levels: TemplateLevel[] = [];
    for (let level = 0; level < picture.levels.length; level++) {
      if (level > 0) {
        const above = picture.levels[level - 1];
        closed = halvedCover(closed, above.width, above.height);
        if (across / 2 ** level < LEAST_ACROSS) break;
      }
      const made = this.takeLevel(picture.levels[level], level, closed, box);
      if (made.blocks.length === 0) break;
      levels.push(made);
    }
    this.levels = levels;
  }

  private takeLevel(plane: Plane, level: number, closed: Uint8Array, box: Box): TemplateLevel {
    const size = 2 ** level;
    const { width, height } = plane;
    const [x0, y0] = [Math.max(1, Math.floor(box.left / size)), Math.max(1, Math.floor(box.top / size))];
    const x1 = Math.min(width - 1, Math.ceil(box.right / size));
    const y1 = Math.min(height - 1, Math.ceil(box.bottom / size));
    const { sides, everywhere } = this.grain;
    const side = sides[Math.min(level, sides.length - 1)];
    const thin = everywhere ? Math.ceil(((x1 - x0) * (y1 - y0)) / everywhere) : 1;
    const columns = Math.max(1, Math.round((x1 - x0) / side));
    const rows = Math.max(1, Math.round((y1 - y0) / side));
    const soft = softened(plane);
    const cells: Cell[] = [];
    for (let r = 0; r < rows; r++) {
      for (let c = 0; c < columns; c++) {
        const [a, b] = [
          x0 + Math.round((c * (x1 - x0)) / columns),
          x0 + Math.round(((c + 1) * (x1 - x0)) / columns),
        ];
        const [t, e] = [
          y0 + Math.round((r * (y1 - y0)) / rows),
          y0 + Math.round(((r + 1) * (y1 - y0)) / rows),
        ];
        const places: number[] = [];
        let texture = 0;
        for (let y = t; y < e; y++) {
          for (let x = a; x < b; x++) {
            const p = y * width + x;
            if (closed[p] || (thin > 1 && (x + 2 * y) % thin > 0)) continue;
            places.push(p);
            const [dx, dy] = [soft[p + 1] - soft[p - 1], soft[p + width] - soft[p - width]];
            texture += (dx * dx + dy * dy) / 4;
          }
        }
        if (places.length * thin < LEAST_OPEN * (b - a) * (e - t) || places.length < 12) continue;
        const zone = Math.floor((ZONES * c) / columns) + ZONES * Math.floor((ZONES * r) / rows);
        cells.push({ places, texture, zone, corners: [a, t, b, e] });
      }
    }
    return this.levelOf(level, plane, soft, everywhere ? cells : withinBudget(cells));
  }

  private levelOf(
    level: number,
    { width }: Plane,
    soft: Float32Array,
    cells: readonly Cell[],
  ): TemplateLevel {
    const total = cells.reduce((n, c) => n + c.places.length, 0);
    const [u, v, values] = [kernelFloats(total), kernelFloats(total), kernelFloats(total)];
    const [gx, gy] = [kernelFloats(total), kernelFloats(total)];
    const begins = new Int32Array(cells.length + 1);
    const size = 2 ** level;
    const { x, y } = this.middle;
    const unit = (px: number, py: number): Point => ({
      x: (px * size - x) / this.half,
      y: (py * size - y) / this.half,
    });
    /** Samples of this level along a unit. */
    const along = this.half / size;
    let k = 0;
    const blocks = cells.map(({ places, corners: [a, t, b, e] }, i) => {
      const from = (begins[i] = k);
      for (const p of places) {
        const at = unit((p % width) + 0.5, Math.floor(p / width) + 0.5);
        u[k] = at.x;
        v[k] = at.y;
        values[k] = soft[p];
        gx[k] = ((soft[p + 1] - soft[p - 1]) / 2) * along;
        gy[k] = ((soft[p + width] - soft[p - width]) / 2) * along;
        k++;
      }
      begins[i + 1] = k;
      const middle = unit((a + b) / 2, (t + e) / 2);
      const probes = [unit(a, t), unit(b, t), unit(b, e), unit(a, e), middle];
      return blockOf({ u, v, values, gx, gy }, from, k, along, probes);
    });
    return { level, begins, u, v, values, gx, gy, blocks };
  }
}

interface Cell {
  readonly places: readonly number[];
  readonly texture: number;
  readonly zone: number;
  readonly corners: readonly [number, number, number, number];
}

/** The cells that tell most of each part of the surface, as long as there is room. */
function withinBudget(cells: readonly Cell[]): readonly Cell[] {
  const total = cells.reduce((n, c) => n + c.places.length, 0);
  if (total <= MOST_SAMPLES) return cells;
  const share = MOST_SAMPLES / total;
  const kept = new Set<Cell>();
  for (let zone = 0; zone < ZONES * ZONES; zone++) {
    const own = cells.filter((c) => c.zone === zone).sort((a, b) => b.texture - a.texture);
    own.slice(0, Math.ceil(own.length * share)).forEach((c) => kept.add(c));
  }
  return cells.filter((c) => kept.has(c));
}

type Samples = Pick<TemplateLevel, 'u' | 'v' | 'values' | 'gx' | 'gy'>;

/**
 * The steepest descent images of a homography about no motion, [[1 + a, b, c], [d, 1 + e, f], [g, h, 1]], in that order
 * (Baker and Matthews 2004, "Lucas-Kanade 20 years on: a unifying framework", section 3.2), summed and multiplied.
 *
 * Cost: some fifty multiply-adds a sample, once.
 */
function blockOf(
  { u, v, values, gx, gy }: Samples,
  from: number,
  to: number,
  along: number,
  probes: readonly Point[],
): Block {
  const m = PARAMETERS;
  const count = to - from;
  let sum = 0;
  for (let k = from; k < to; k++) sum += values[k];
  const mean = sum / count;
  const [byOne, byValue] = [new Float64Array(m), new Float64Array(m)];
  const normal = new Float64Array(m * m);
  const image = new Float64Array(m);
  let contrast = 0;
  let texture = 0;
  for (let k = from; k < to; k++) {
    const x = u[k];
    const y = v[k];
    const a = gx[k];
    const b = gy[k];
    const q = a * x + b * y;
    image[0] = a * x;
    image[1] = a * y;
    image[2] = a;
    image[3] = b * x;
    image[4] = b * y;
    image[5] = b;
    image[6] = -q * x;
    image[7] = -q * y;
    const off = values[k] - mean;
    contrast += off * off;
    texture += (a * a + b * b) / (along * along);
    for (let i = 0; i < m; i++) {
      byOne[i] += image[i];
      byValue[i] += image[i] * off;
      for (let j = i; j < m; j++) normal[m * i + j] += image[i] * image[j];
    }
  }
  for (let i = 0; i < m; i++) {
    for (let j = i + 1; j < m; j++) normal[m * j + i] = normal[m * i + j];
  }
  return { probes, count, sum, contrast, byOne, byValue, normal, texture: texture / count };
}

/**
 * A plane sampled with the quadratic B-spline at its own samples: weights 1, 6, 1 of 8 across and down. What lies
 * between samples is softened by it as much (its second moment is the same everywhere), so that nothing is drawn to
 * whole samples. Cost: six multiply-adds a sample.
 */
function softened({ width, height, stride, data }: Plane): Float32Array {
  const across = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0, p = y * stride, q = y * width; x < width; x++, p++, q++) {
      const [l, r] = [x > 0 ? data[p - 1] : data[p], x < width - 1 ? data[p + 1] : data[p]];
      across[q] = (l + 6 * data[p] + r) / 8;
    }
  }
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    const [up, down] = [y > 0 ? -width : 0, y < height - 1 ? width : 0];
    for (let q = y * width; q < (y + 1) * width; q++)
      out[q] = (across[q + up] + 6 * across[q] + across[q + down]) / 8;
  }
  return out;
}

/** A plane of its own: a pyramid's memory is used again. */
function copyOf({ width, height, stride, data }: Plane): Plane {
  return { width, height, stride, data: new Uint8Array(data.subarray(0, stride * height)) };
}

interface Box {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

/** The box round outlines, as far as it lies in the picture. */
function boxOf(shapes: readonly (readonly Point[])[], width: number, height: number): Box {
  const all = shapes.flat();
  const clamp = (value: number, most: number) => Math.min(most, Math.max(0, value));
  return {
    left: clamp(Math.min(...all.map((p) => p.x)), width),
    top: clamp(Math.min(...all.map((p) => p.y)), height),
    right: clamp(Math.max(...all.map((p) => p.x)), width),
    bottom: clamp(Math.max(...all.map((p) => p.y)), height),
  };
}
