import { after, invert, scaleRange, scaling, type Warp } from '@lurn/core/geometry';
import type { ChromaSiting, Plane, Rgb } from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan';
import { chromaToLuma, halvingsFor } from '@lurn/core/warp';
import { boxHalf } from '@lurn/kernels';
import { LRUCache } from 'lru-cache';
import type { Picture } from '../picture.js';
import { toPixel, type ColourTables } from './raster.js';

/** A picture as it is sampled: planes halved to about the size they are seen at, and where pane pixels lie in them. */
export interface Sampled {
  readonly luma: Plane;
  readonly u: Plane;
  readonly v: Plane;
  /** Pane pixels to samples of `luma`. */
  readonly toLuma: Warp;
  /** Samples of `luma` to samples of `u` and `v`: factors and shifts. */
  readonly chromaX: number;
  readonly chromaY: number;
  readonly chromaLeft: number;
  readonly chromaTop: number;
  /** What is added to luma and chroma; null for nothing. */
  readonly offset: Rgb | null;
  /** Samples are taken as they are instead of between four. */
  readonly nearest: boolean;
}

/** Halves planes, and keeps what was halved last: for two panes, and for a film that is played again. */
export class Halver {
  private readonly kept: LRUCache<Plane, Plane>;

  /** @param most  planes that are kept */
  constructor(most = 24) {
    this.kept = new LRUCache({ max: most });
  }

  halved(plane: Plane, times: number): Plane {
    let level = plane;
    for (; times > 0; times--) {
      let half = this.kept.get(level);
      if (!half) this.kept.set(level, (half = boxHalf(level)));
      level = half;
    }
    return level;
  }
}

/** @param toLuma  pane pixels to luma samples at full size @param pane  the part of the pane that is looked at */
export function sampled(
  { y, u, v, subsampling }: Picture,
  toLuma: Warp,
  pane: Size,
  siting: ChromaSiting,
  halver: Halver,
  nearest: boolean,
  offset: Rgb | null = null,
): Sampled {
  const back = invert(chromaToLuma(subsampling, siting));
  const { least } = scaleRange(toLuma, pane.width, pane.height);
  const times = halvingsFor(least);
  const chromaTimes = halvingsFor(least * Math.sqrt(back[0] * back[4]));
  const [grow, less] = [2 ** times, 0.5 ** chromaTimes];
  return {
    luma: halver.halved(y, times),
    u: halver.halved(u, chromaTimes),
    v: halver.halved(v, chromaTimes),
    toLuma: times > 0 ? after(scaling(1 / grow), toLuma) : toLuma,
    chromaX: back[0] * grow * less,
    chromaY: back[4] * grow * less,
    chromaLeft: back[2] * less,
    chromaTop: back[5] * less,
    offset,
    nearest,
  };
}

/** What is seen at a place, in samples of `luma`; at the rim of the picture its outermost samples go on. */
export function pixelAt(from: Sampled, px: number, py: number, tables: ColourTables): number {
  const sample = from.nearest ? nearestAt : betweenFour;
  const cx = px * from.chromaX + from.chromaLeft;
  const cy = py * from.chromaY + from.chromaTop;
  let y = sample(from.luma, px, py);
  let u = sample(from.u, cx, cy);
  let v = sample(from.v, cx, cy);
  if (from.offset) {
    y = matched(y, from.offset[0]);
    u = matched(u, from.offset[1]);
    v = matched(v, from.offset[2]);
  }
  return toPixel(tables, y, u, v);
}

function matched(value: number, offset: number): number {
  return Math.max(0, Math.min(255, Math.round(value + offset)));
}

function nearestAt(plane: Plane, px: number, py: number): number {
  const x = Math.min(plane.width - 1, Math.max(0, Math.floor(px)));
  const y = Math.min(plane.height - 1, Math.max(0, Math.floor(py)));
  return plane.data[y * plane.stride + x];
}

function betweenFour({ data, stride, width, height }: Plane, px: number, py: number): number {
  const x = Math.min(width - 1, Math.max(0, px - 0.5));
  const y = Math.min(height - 1, Math.max(0, py - 0.5));
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const [fx, fy] = [x - i, y - j];
  const at = j * stride + i;
  // A whole place takes nothing from its right or lower neighbour, which need not be there.
  const right = fx > 0 ? 1 : 0;
  const down = fy > 0 ? stride : 0;
  const above = data[at] + fx * (data[at + right] - data[at]);
  const below = data[at + down] + fx * (data[at + down + right] - data[at + down]);
  return Math.round(above + fy * (below - above));
}
