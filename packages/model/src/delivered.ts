import { givenBack, sceneOf, type Scene } from '@lurn/core/compose';
import { mostZoom, planFor, ridersOf, type Plan, type Size } from '@lurn/core/plan';
import type { AnalysedScene } from '@lurn/core/solve';
import type { ClipInfo } from './clip.js';
import type { Delivery, ShotState } from './document.js';
import type { RasterSource } from './layers/index.js';
import { documentLook } from './look.js';
import { shotRequest } from './request.js';

/** What a delivery draws. */
export interface Delivered {
  /** Null where the picture is given back as it was shot and there is no motion to take out. */
  readonly plan: Plan | null;
  readonly zoom: number;
  readonly size: Size;
  /** Of the frames of the range, in order. */
  readonly scenes: readonly Scene[];
  /** What their layers show. */
  readonly rasters: readonly RasterSource[];
}

/**
 * Plans what a shot's first delivery draws: the steadied picture, or the one that was shot with the layers given back.
 *
 * @returns null where there is no motion to take out
 */
export function deliveredBy(state: ShotState, info: ClipInfo, scene: AnalysedScene | null): Delivered | null {
  const { range, deliveries } = state.document;
  const request = shotRequest(state, info);
  const plan = planFor(request, scene);
  const { look, rasters } = documentLook(state);
  const frames = Array.from({ length: range.to - range.from + 1 }, (_, i) => range.from + i);
  if (deliveries[0].picture === 'as-shot') {
    const motions = plan?.motions ?? ridersOf(request, scene);
    const scenes = frames.map((f) => givenBack(info, look, f, motions));
    return { plan, zoom: 1, size: { width: info.width, height: info.height }, scenes, rasters };
  }
  if (!plan) return null;
  return {
    plan,
    zoom: mostZoom(plan, range.from, range.to),
    size: plan.delivery,
    scenes: frames.map((f) => sceneOf(plan, look, f, range.from, range.to)),
    rasters,
  };
}

/** How a delivery shows the picture as shot beside the steadied one; null where it does not, or has nothing to compare. */
export function comparedBy({
  picture,
  base,
  compare,
  labels = false,
}: Delivery): { readonly way: NonNullable<Delivery['compare']>; readonly labels: boolean } | null {
  return picture === 'steadied' && base && compare ? { way: compare, labels } : null;
}
