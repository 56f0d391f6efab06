import { IDENTITY } from '../geometry/matrix.js';
import { warpMatrix } from '../geometry/warp.js';
import { peakOf, type AnyPlane } from '../picture/plane.js';
import type { ChromaSiting } from '../picture/subsampling.js';
import { borrowPlane, coverPlane, donorOffset, featherOf, type Sheet } from '../warp/borrow.js';
import { chromaWarp } from '../warp/chroma.js';
import type { Beyond } from '../warp/edges.js';
import { warpPlane, warpPlaneNarrowly } from '../warp/warp-plane.js';
import { PlaneCoding, type ColourCode } from '../picture/colour.js';
import { graphicsInto } from '../picture/graphics-light.js';
import type { LightCode } from '../picture/tone-map.js';
import { drawLayer } from './draw-layer.js';
import { framesOfMattes } from './matte.js';
import type { Raster } from './raster.js';
import type { PicturePlanes } from './picture-planes.js';

import type { Scene, ScenePicture } from './scene.js';

export interface ComposeLook {
  readonly siting: ChromaSiting;
  /** The colour beyond the edges as it lies in the planes: luma, then the chroma planes. */
  readonly fill: readonly [number, number, number];
  /** How the planes code colours, and the height of the source, by which that is told where it does not say. */
  readonly code?: ColourCode & LightCode & { readonly height: number };
  /** The rasters of its layers, by their keys. */
  readonly rasters?: (key: string) => Raster | null;
  /** Quickly rather than exactly: what shrinks a little is sampled as if it did not. For what moves by. */
  readonly draft?: boolean;
}

/**
 * Draws a scene into planes: the warped picture, what lies beyond its edges, and the layers that ride on it. Luma and
 * chroma are warped each by itself, so that there is no way through red, green and blue. A picture that stays where it
 * is comes out as it went in, bit for bit, wherever no layer covers it.
 *
 * @param pictures  planes of the frames that the scene is made of, of the output's depth and subsampling
 * @param out       all of it is written
 */
export function compose(
  { base, layers, size }: Scene,
  pictures: (frame: number) => PicturePlanes,
  out: PicturePlanes,
  look: ComposeLook,
): void {
  if (base.shown === false) drawNothing(out, look.fill);
  else drawBase(base, pictures, out, look);
  if (layers.length === 0) return;
  const {
    siting,
    draft = false,
    rasters = () => null,
    code = { range: 'tv', space: null, height: size.height },
  } = look;
  const coding = new PlaneCoding(code, code.height, out.y.depth);
  const compared = layers.some((l) => framesOfMattes(l.mattes).length > 0);
  const below = compared ? copyOf(out) : undefined;
  const lit = graphicsInto(code);
  const tools = { pictures, rasters, coding, lit, siting, below, draft, frame: base.frame };
  for (const layer of layers) drawLayer(layer, out, tools);
}

/** Nothing at all, for layers that are to stand alone. */
function drawNothing({ y, u, v, alpha }: PicturePlanes, fill: ComposeLook['fill']): void {
  [y, u, v].forEach((plane, k) => plane.data.fill(fill[k]));
  alpha?.data.fill(0);
}

function drawBase(
  base: ScenePicture,
  pictures: (frame: number) => PicturePlanes,
  out: PicturePlanes,
  { siting, fill, draft }: ComposeLook,
): void {
  const own = pictures(base.frame);
  if (staysAsItIs(base, own, out)) return copyPicture(own, out);
  const lent = base.donors.map((d) => ({ planes: pictures(d.frame), toSource: d.toSource }));
  const sheetsBelow = [{ planes: own, toSource: base.toSource }, ...lent];
  const feather = featherOf(own.y);
  const { mode } = base.edges;
  for (const [k, key] of (['y', 'u', 'v'] as const).entries()) {
    const plane = out[key];
    const sheets = sheetsBelow.map(({ planes, toSource }): Sheet => ({
      plane: planes[key],
      toSource: k > 0 ? chromaWarp(toSource, out.subsampling, siting) : toSource,
      offset: 0,
    }));
    // Under alpha the picture goes on, so that its rim does not take on the colour behind it.
    const beyond: Beyond =
      mode === 'transparent' ? 'stretched' : mode === 'mirrored' || mode === 'stretched' ? mode : fill[k];
    (draft ? warpPlaneNarrowly : warpPlane)(sheets[0].plane, plane, sheets[0].toSource, beyond);
    if (lent.length === 0) continue;
    const reach = k > 0 ? feather / out.subsampling.y : feather;
    const matched = sheets.map((s, i) => ({
      ...s,
      offset: i > 0 ? donorOffset(sheets[0], s, plane, reach) : 0,
    }));
    borrowPlane(matched, plane, reach, fill[k]);
  }
  if (out.alpha) coverPlane(out.alpha, base.toSource, own.y);
}

function staysAsItIs({ toSource, donors }: ScenePicture, own: PicturePlanes, out: PicturePlanes): boolean {
  const sameSize = own.y.width === out.y.width && own.y.height === out.y.height;
  const { subsampling: a } = own;
  const { subsampling: b } = out;
  const still = warpMatrix(toSource)?.every((v, i, m) => v === m[8] * IDENTITY[i]) ?? false;
  return still && sameSize && a.x === b.x && a.y === b.y && donors.length === 0;
}

function copyPicture(own: PicturePlanes, out: PicturePlanes): void {
  for (const key of ['y', 'u', 'v'] as const) {
    const [from, to] = [own[key], out[key]];
    for (let row = 0; row < to.height; row++)
      to.data.set(from.data.subarray(row * from.stride, row * from.stride + to.width), row * to.stride);
  }
  out.alpha?.data.fill(peakOf(out.y));
}

function copyOf({ y, u, v, subsampling }: PicturePlanes): PicturePlanes {
  const copied = (plane: AnyPlane) => ({ ...plane, data: plane.data.slice() });
  return { y: copied(y), u: copied(u), v: copied(v), subsampling };
}
