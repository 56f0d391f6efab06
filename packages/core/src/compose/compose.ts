import type { AnyPlane } from '../picture/plane.js';
import type { ChromaSiting, Subsampling } from '../picture/subsampling.js';
import { borrowPlane, coverPlane, donorOffset, featherOf, type Sheet } from '../warp/borrow.js';
import { chromaWarp } from '../warp/chroma.js';
import type { Beyond } from '../warp/edges.js';
import { warpPlane } from '../warp/warp-plane.js';
import type { Scene } from './scene.js';

/** A picture in planes of one depth. */
export interface PicturePlanes {
  readonly y: AnyPlane;
  readonly u: AnyPlane;
  readonly v: AnyPlane;
  readonly subsampling: Subsampling;
  /** How much of each sample is covered; only of pictures that are written with it. */
  readonly alpha?: AnyPlane;
}

export interface ComposeLook {
  readonly siting: ChromaSiting;
  /** The colour beyond the edges as it lies in the planes: luma, then the chroma planes. */
  readonly fill: readonly [number, number, number];
}

/**
 * Draws a scene into planes: the warped picture, and what lies beyond its edges. Luma and chroma are warped each by
 * itself, so that there is no way through red, green and blue.
 *
 * @param pictures  planes of the frames that the scene is made of, of the output's depth and subsampling
 * @param out       all of it is written
 */
export function compose(
  { base }: Scene,
  pictures: (frame: number) => PicturePlanes,
  out: PicturePlanes,
  { siting, fill }: ComposeLook,
): void {
  const own = pictures(base.frame);
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
    warpPlane(sheets[0].plane, plane, sheets[0].toSource, beyond);
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
