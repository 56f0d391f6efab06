import { IDENTITY } from '../../../geometry/matrix.js';
import { before, type Warp } from '../../../geometry/warp.js';
import { DistanceField } from '../../distance-field.js';
import { insideShare, outlineOn, type LookOutline, type Outline } from '../../outline.js';
import type { Ride } from '../../ride.js';
import { carriedTo, toOwnOf } from '../../seen.js';
import type { MatteKind } from '../matte-kind.js';

/** A drawn shape, and what that rides on. */
export interface OutlineLook {
  readonly kind: 'outline';
  readonly outline: LookOutline;
  readonly frame: number;
  readonly ride: Ride;
  readonly outside: boolean;
}

export interface OutlineMatte {
  readonly kind: 'outline';
  readonly outline: Outline;
  /** Pixels of the scene to those of the frame that the outline was drawn on. */
  readonly toOwn: Warp;
  /** True: the layer is shown beyond it, and not inside. */
  readonly outside: boolean;
}

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

export const OUTLINE_MATTE: MatteKind<OutlineLook, OutlineMatte> = {
  shown(matte, { unknown }, seen) {
    const outline = outlineOn(matte.outline, seen.frame);
    const carried = carriedTo({ ...matte, unknown, middle: { x: 0, y: 0 } }, seen);
    const toOwn = toOwnOf(matte, carried, seen);
    return toOwn && { kind: 'outline', outline, toOwn, outside: matte.outside };
  },
  through: (matte, first) => ({ ...matte, toOwn: before(matte.toOwn, first) }),
  ask({ outline, toOwn, outside }, { grid, box: { x0, x1, y0, y1 } }) {
    const place = grid.placing(toOwn, IDENTITY);
    const field = fieldOf(outline);
    const [xs, ys] = [new Float64Array(x1 - x0), new Float64Array(x1 - x0)];
    const { grow, soften } = outline;
    // Behind the camera there is no scale; nothing is inside there either.
    const scale = place.scaleAt((x0 + x1) / 2, (y0 + y1) / 2);
    const span = Number.isFinite(scale) ? scale : 1;
    return (row, _, out) => {
      place.row(row + 0.5, x0 + 0.5, x1 + 0.5, xs, ys);
      for (let i = 0; i < out.length; i++) {
        const share = insideShare(field.at(xs[i], ys[i]), grow, soften, span);
        out[i] = outside ? 1 - share : share;
      }
    };
  },
};
