import type { LookContent, RasterEdge } from '@lurn/core/compose';
import { Within } from '../checks.js';
import { LIMITS } from '../limits.js';
import { quadOf, type Corners4 } from '../trackers/index.js';
import { ALWAYS, type LayerRules, type ShownLayer } from './layer-rules.js';
import type { RasterSource } from './raster-source.js';

/** How the edge of a raster's own shape runs, in pixels of its frame. */
export class EdgeSettings {
  @Within(LIMITS.grow)
  readonly grow!: number;
  @Within(LIMITS.fade)
  readonly soften!: number;
  @Within(LIMITS.fade)
  readonly blur!: number;
}

export const NEW_EDGE = { grow: 0, soften: 0, blur: 0 } as const;

/** Something with four corners. */
interface Placed {
  readonly corners: Corners4;
}

/** What is the same for every layer that is placed by its four corners. */
export const PLACED: Pick<LayerRules<Placed>, 'blends' | 'moved'> = {
  blends: true,
  moved: ({ corners }, move) => ({ corners: corners.map(move) }),
};

/** A layer that shows one raster in its corners. */
export function showPlaced({ corners }: Placed, source: RasterSource, content: LookContent): ShownLayer {
  return {
    content: [{ content, span: ALWAYS }],
    rasters: [source],
    outline: null,
    middle: middleOf(corners),
    margin: 0,
  };
}

/** A raster in its corners, and how its edge runs there. */
export function placedRaster(corners: Corners4, raster: string, ofClip?: boolean): LookContent {
  return { kind: 'raster', raster, corners: quadOf(corners), ...(ofClip && { ofClip }) };
}

/** How large a raster is shown, where its edge is not plain, and what tells such rasters apart. */
export function edgeOf({ edge, corners }: Placed & { readonly edge: RasterEdge }): {
  side: number;
  key: string;
} {
  const { grow, soften, blur } = edge;
  if (grow === 0 && soften === 0 && blur === 0) return { side: 0, key: '' };
  // What an edge is in the raster's own pixels depends on how large it is shown.
  const side = Math.round(Math.sqrt(areaOf(corners)));
  return { side, key: ` ${side} ${grow} ${soften} ${blur}` };
}

function areaOf(corners: Corners4): number {
  let sum = 0;
  corners.forEach(([x, y], i) => {
    const [u, v] = corners[(i + 1) % 4];
    sum += x * v - u * y;
  });
  return Math.abs(sum) / 2;
}

export function middleOf(places: readonly (readonly [number, number])[]) {
  const mean = (axis: 0 | 1) => places.reduce((s, p) => s + p[axis], 0) / places.length;
  return { x: mean(0), y: mean(1) };
}
