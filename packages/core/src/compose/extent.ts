import { apply, invert, type Matrix3, type Point } from '../geometry/matrix.js';
import { sourceBounds, type Warp } from '../geometry/warp.js';
import type { Size } from '../framing/framing.js';
import type { SceneLayer } from './layer.js';
import { toRaster, type Raster } from './raster.js';
import type { Box } from './layer-grid.js';

/** What part of a scene a layer can be seen in. */
export function extentOf(layer: SceneLayer, size: Size, rasters: (key: string) => Raster | null): Box {
  let box: Box = { x0: 0, y0: 0, x1: size.width, y1: size.height };
  const { content } = layer;
  if (content.kind === 'raster' || content.kind === 'picture') {
    // Nothing is seen of it beyond what it is seen through.
    const seen = (content.kind === 'raster' && content.stencil) || content;
    const raster = rasters(content.raster) && rasters(seen.raster);
    const to = raster && toRaster(raster, seen.corners);
    if (!to) return { ...box, x1: 0 };
    const corners = cornersOf({ x0: 0, y0: 0, x1: raster.width, y1: raster.height });
    box = cut(box, around(layer.toOwn, corners, invert(to), 0));
  }
  for (const list of layer.mattes) {
    const only = list.length === 1 ? list[0] : null;
    if (only?.kind !== 'outline' || only.outside) continue;
    const { points, grow, soften } = only.outline;
    box = cut(box, around(only.toOwn, points, null, Math.max(0, grow + soften / 2)));
  }
  return box;
}

const cornersOf = ({ x0, y0, x1, y1 }: Box): Point[] => [
  { x: x0, y: y0 },
  { x: x1, y: y0 },
  { x: x1, y: y1 },
  { x: x0, y: y1 },
];

const cut = (a: Box, b: Box | null): Box =>
  b
    ? {
        x0: Math.max(a.x0, b.x0),
        y0: Math.max(a.y0, b.y0),
        x1: Math.min(a.x1, b.x1),
        y1: Math.min(a.y1, b.y1),
      }
    : a;

/** The part of a scene that places of a frame are seen in, and a pixel beyond; null where that is not known. */
function around(toOwn: Warp, points: readonly Point[], first: Matrix3 | null, margin: number): Box | null {
  const own = first ? points.map((p) => apply(first, p.x, p.y)) : points;
  const b = sourceBounds(toOwn, own, margin);
  if (!b) return null;
  const [x0, y0] = [Math.floor(b.x0) - 1, Math.floor(b.y0) - 1];
  return { x0, y0, x1: Math.ceil(b.x1) + 1, y1: Math.ceil(b.y1) + 1 };
}
