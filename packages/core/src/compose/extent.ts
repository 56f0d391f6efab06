import { apply, invert, isAffine, type Matrix3, type Point } from '../geometry/matrix.js';
import { evaluatorOf, type UnbentWarp, type Warp } from '../geometry/warp.js';
import type { Size } from '../framing/framing.js';
import { toRaster, type SceneLayer, type Raster } from './layer.js';
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

/**
 * The part of a scene that places of a frame are seen in, and a pixel beyond; null where that is not known: through
 * several meshes, or where some of them lie behind the camera.
 */
function around(toOwn: Warp, points: readonly Point[], first: Matrix3 | null, margin: number): Box | null {
  if (toOwn.kind === 'unbent') return aroundBent(toOwn, points, first, margin);
  if (toOwn.kind !== 'matrix') return null;
  const back = invert(toOwn.m);
  const xs: number[] = [];
  const ys: number[] = [];
  const spread = cornersOf({ x0: -margin, y0: -margin, x1: margin, y1: margin });
  for (const point of points) {
    const own = first ? apply(first, point.x, point.y) : point;
    for (const d of margin > 0 ? spread : spread.slice(0, 1)) {
      const [x, y] = [own.x + d.x, own.y + d.y];
      const w = back[6] * x + back[7] * y + back[8];
      const p = apply(back, x, y);
      // In front of the camera only if the way there comes back with a positive depth, too.
      const there = toOwn.m[6] * p.x + toOwn.m[7] * p.y + toOwn.m[8];
      if (!(w !== 0 && there > 0)) return null;
      xs.push(p.x);
      ys.push(p.y);
    }
  }
  return {
    x0: Math.floor(Math.min(...xs)) - 1,
    y0: Math.floor(Math.min(...ys)) - 1,
    x1: Math.ceil(Math.max(...xs)) + 1,
    y1: Math.ceil(Math.max(...ys)) + 1,
  };
}

/** Looks across and down a box that is bent, and how much farther than they tell it may reach, in parts of its size. */
const [LOOKS, BULGE] = [16, 0.04];

function aroundBent(
  { mesh, before, after }: UnbentWarp,
  points: readonly Point[],
  first: Matrix3 | null,
  margin: number,
): Box | null {
  if (!isAffine(before)) return null;
  const own = points.map((p) => (first ? apply(first, p.x, p.y) : p));
  const [xs, ys] = [own.map((p) => p.x), own.map((p) => p.y)];
  const box = [
    Math.min(...xs) - margin,
    Math.min(...ys) - margin,
    Math.max(...xs) + margin,
    Math.max(...ys) + margin,
  ];
  const [toMesh, toScene] = [invert(after), invert(before)];
  const place = evaluatorOf(mesh);
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let j = 0; j <= LOOKS; j++) {
    for (let i = 0; i <= LOOKS; i++) {
      const q = apply(
        toMesh,
        box[0] + (i / LOOKS) * (box[2] - box[0]),
        box[1] + (j / LOOKS) * (box[3] - box[1]),
      );
      const there = place.at(q.x, q.y);
      const p = apply(toScene, there.x, there.y);
      [x0, y0, x1, y1] = [Math.min(x0, p.x), Math.min(y0, p.y), Math.max(x1, p.x), Math.max(y1, p.y)];
    }
  }
  const more = 2 + BULGE * Math.max(x1 - x0, y1 - y0);
  return {
    x0: Math.floor(x0 - more),
    y0: Math.floor(y0 - more),
    x1: Math.ceil(x1 + more),
    y1: Math.ceil(y1 + more),
  };
}
