import type { AbortSignalLike } from '../errors.js';
import { moveQuad, quadToQuad, rectangle, type Quad } from '../geometry/homography.js';
import { apply, type Matrix3, type Point } from '../geometry/matrix.js';
import { matrixWarp } from '../geometry/warp.js';
import { measureNoise } from '../picture/noise.js';
import { createPlane, type Plane } from '../picture/plane.js';
import { Pyramid } from '../picture/pyramid.js';
import { SurfaceAligner, type BlockFit } from '../surface/surface-aligner.js';
import { SURFACE_LEVELS, SurfaceTemplate } from '../surface/surface-template.js';
import { everDrawn, type SurfaceToTrack } from '../surface/track-surfaces.js';
import type { FrameSource } from '../track/frame-run.js';
import { warpPlane } from './warp-plane.js';

/** A part of a surface, and how it fits on a frame. */
export interface PlacedBlock extends BlockFit {
  /** Its corners on the surface's own frame. */
  readonly corners: readonly Point[];
}

/** A surface as it is on a frame, laid flat, beside how it is on its own. */
export interface SurfaceLook {
  readonly width: number;
  readonly height: number;
  readonly flat: Uint8Array;
  readonly own: Uint8Array;
  readonly blocks: readonly PlacedBlock[];
}

/** Looks at one surface on frame after frame; what its own frame tells is kept. */
export class SurfaceLooker {
  private own: { readonly plane: Plane; readonly aligner: SurfaceAligner; readonly noise: number } | null =
    null;

  constructor(
    private readonly source: FrameSource,
    private readonly surface: SurfaceToTrack,
  ) {}

  /**
   * @param motion  the surface's own frame to the one that is looked at
   * @param quad    what is laid flat, on its own frame
   */
  async look(
    frame: number,
    motion: Matrix3,
    quad: Quad,
    { width, height }: { readonly width: number; readonly height: number },
    signal?: AbortSignalLike,
  ): Promise<SurfaceLook> {
    const { surface, source } = this;
    const { channel } = surface.settings.eye;
    if (!this.own) {
      const plane = await source.plane(surface.frame, channel, signal);
      const kept = { ...plane, data: plane.data.slice() };
      const template = new SurfaceTemplate(new Pyramid(kept, SURFACE_LEVELS), everDrawn(surface));
      this.own = { plane: kept, aligner: new SurfaceAligner(template), noise: measureNoise(kept) };
    }
    const plane = await source.plane(frame, channel, signal);
    const { aligner, noise } = this.own;
    const aim = { allow: surface.settings.allow, noise, corners: [] };
    const fit =
      aligner.template.levels.length > 0
        ? aligner.align(new Pyramid(plane, SURFACE_LEVELS), motion, 0, aim)
        : null;
    const { fromUnit, levels } = aligner.template;
    return {
      ...{ width, height },
      flat: flattened(plane, moveQuad(motion, quad), width, height),
      own: flattened(this.own.plane, quad, width, height),
      blocks: (fit?.blocks ?? []).map((block, b) => ({
        ...block,
        corners: levels[0].blocks[b].probes.slice(0, 4).map((p) => apply(fromUnit, p.x, p.y)),
      })),
    };
  }
}

/** A quad of a picture as a rectangle. */
function flattened(plane: Plane, quad: Quad, width: number, height: number): Uint8Array {
  const out = createPlane(width, height);
  const back = quadToQuad(rectangle(0, 0, width, height), quad);
  if (back) warpPlane(plane, out, matrixWarp(back), 'stretched');
  return out.data;
}
