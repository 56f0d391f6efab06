import type { WarpEvaluator } from '../geometry/warp.js';
import type { PlaneCoding } from '../picture/colour.js';
import { DistanceField } from './distance-field.js';
import { IDENTITY } from '../geometry/matrix.js';
import type { ColourRange, Outline, SceneMatte } from './layer.js';
import type { Box, LayerGrid, RowOfColours } from './layer-grid.js';

/** Beyond where an outline's edge has faded, distances need not be known. */
const BEYOND = 6;

/** Fields worked out so far, by their outlines: threads are told of the same outline with every frame anew. */
const fields = new Map<string, DistanceField>();
const MOST_FIELDS = 60;

function fieldOf({ points, grow, soften }: Outline): DistanceField {
  const band = Math.abs(grow) + soften / 2 + BEYOND;
  const key = `${band} ${points.map(({ x, y }) => `${x},${y}`).join(' ')}`;
  let field = fields.get(key);
  if (!field) {
    const [oldest] = fields.keys();
    if (fields.size >= MOST_FIELDS) fields.delete(oldest);
    fields.set(key, (field = new DistanceField(points, band)));
  }
  return field;
}

/** How much of a sample lies inside an outline, by its distance from the edge: straight across a sample, gentle where soft. */
export function insideShare(distance: number, grow: number, soften: number, span: number): number {
  const width = Math.max(span, soften);
  const t = 0.5 + (distance + grow) / width;
  if (t <= 0) return 0;
  if (t >= 1) return 1;
  return soften > span ? t * t * (3 - 2 * t) : t;
}

/** How much of a colour lies in a range, 0 to 1. @param rgb  0 to 1 each */
export function rangeShare(range: ColourRange, rgb: Float64Array, kr: number, kb: number): number {
  const { colour, reach, soften, brightness } = range;
  const [dr, dg, db] = [rgb[0] - colour[0] / 255, rgb[1] - colour[1] / 255, rgb[2] - colour[2] / 255];
  const dy = kr * dr + (1 - kr - kb) * dg + kb * db;
  // Colour counts more than brightness: shade and light lie on one thing.
  const off = brightness ? Math.abs(dy) : Math.hypot(0.4 * dy, db - dy, dr - dy);
  if (off <= reach) return 1;
  const t = soften > 0 ? 1 - (off - reach) / soften : 0;
  return t <= 0 ? 0 : t * t * (3 - 2 * t);
}

/** How much the picture differs from another frame's, over a box of a grid, of the way from black to white. */
export type DifferenceOf = (matte: SceneMatte & { kind: 'difference' }, box: Box) => Float32Array;

/** Asks one matte for the samples of a row. */
type Ask = (row: number, colours: RowOfColours | null, out: Float64Array) => void;

/** What lets a layer through, on one grid. */
export class Mattes {
  private readonly asks: readonly (readonly Ask[])[];
  private readonly one: Float64Array;
  private readonly closed: Float64Array;
  /** True when colours of the picture have to be read. */
  readonly keyed: boolean;

  constructor(
    mattes: readonly (readonly SceneMatte[])[],
    grid: LayerGrid,
    private readonly box: Box,
    private readonly coding: PlaneCoding,
    private readonly differs: DifferenceOf,
  ) {
    this.keyed = mattes.some((list) => list.some((m) => m.kind === 'key'));
    this.one = new Float64Array(Math.max(0, box.x1 - box.x0));
    this.closed = new Float64Array(this.one.length);
    this.asks = mattes.map((list) =>
      list.map((m) => {
        if (m.kind === 'key') return this.key(m.range, m.outside);
        if (m.kind === 'difference') return this.difference(m);
        return this.outline(m.outline, grid.placing(m.toOwn, IDENTITY), m.outside);
      }),
    );
  }

  /** Multiplies shares of a row by what every list lets through; in a list, whatever one lets through goes. */
  apply(row: number, colours: RowOfColours | null, shares: Float64Array): void {
    const { one, closed } = this;
    for (const list of this.asks) {
      if (list.length === 1) {
        list[0](row, colours, one);
        for (let i = 0; i < one.length; i++) shares[i] *= one[i];
      } else if (list.length > 1) {
        closed.fill(1);
        for (const ask of list) {
          ask(row, colours, one);
          for (let i = 0; i < one.length; i++) closed[i] *= 1 - one[i];
        }
        for (let i = 0; i < one.length; i++) shares[i] *= 1 - closed[i];
      }
    }
  }

  private outline(outline: Outline, place: WarpEvaluator, outside: boolean): Ask {
    const { x0, x1, y0, y1 } = this.box;
    const n = x1 - x0;
    const field = fieldOf(outline);
    const [xs, ys] = [new Float64Array(n), new Float64Array(n)];
    const { grow, soften } = outline;
    // Behind the camera there is no scale; nothing is inside there either.
    const scale = place.scaleAt((x0 + x1) / 2, (y0 + y1) / 2);
    const span = Number.isFinite(scale) ? scale : 1;
    return (row, _, out) => {
      place.row(row + 0.5, x0 + 0.5, x1 + 0.5, xs, ys);
      for (let i = 0; i < n; i++) {
        const share = insideShare(field.at(xs[i], ys[i]), grow, soften, span);
        out[i] = outside ? 1 - share : share;
      }
    };
  }

  private difference(matte: SceneMatte & { kind: 'difference' }): Ask {
    const { y0 } = this.box;
    const { reach, soften, outside } = matte;
    const n = this.one.length;
    const off = this.differs(matte, this.box);
    return (row, _, out) => {
      const line = (row - y0) * n;
      for (let i = 0; i < n; i++) {
        const t = soften > 0 ? (off[line + i] - reach) / soften : off[line + i] > reach ? 1 : 0;
        const share = t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t);
        out[i] = outside ? 1 - share : share;
      }
    };
  }

  private key(range: ColourRange, outside: boolean): Ask {
    const { coding } = this;
    const rgb = new Float64Array(3);
    const n = this.one.length;
    return (_, colours, out) => {
      for (let i = 0; i < n; i++) {
        coding.toRgb(colours!.y[i], colours!.u[i], colours!.v[i], rgb);
        const share = rangeShare(range, rgb, coding.kr, coding.kb);
        out[i] = outside ? 1 - share : share;
      }
    };
  }
}
