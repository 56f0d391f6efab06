import type { ChromaSiting } from '@lurn/core';
import { DraftDrawer } from './draft/draft-drawer.js';
import type { Drawer } from './drawer.js';
import type { ColourCoding } from './gl/colour.js';
import { PictureDrawer } from './gl/picture-drawer.js';

/** What computed renderers call themselves: those of Chromium, Mesa and Windows. */
const COMPUTED = /swiftshader|llvmpipe|softpipe|software|basic render/i;

/** True when WebGL2 runs on a graphics card; without one browsers may offer it all the same, computed and slow. */
export function hasGraphicsCard(): boolean {
  const options = { failIfMajorPerformanceCaveat: true };
  const gl = new OffscreenCanvas(1, 1).getContext('webgl2', options);
  if (!gl) return false;
  // Not every browser counts its own computing as a caveat.
  const told = gl.getExtension('WEBGL_debug_renderer_info');
  return !COMPUTED.test(String(gl.getParameter(told ? told.UNMASKED_RENDERER_WEBGL : gl.RENDERER)));
}

/**
 * The canvas on which pictures are seen. WebGL2 draws them exactly; where no graphics card is behind it, that takes
 * longer than a frame lasts, and drafts are drawn by the processor in its place.
 */
export class PictureCanvas {
  private readonly exact: PictureDrawer;
  private readonly context: OffscreenCanvasRenderingContext2D | null;
  private readonly drafts: DraftDrawer | null;

  /** @throws LurnError `no-webgl` */
  constructor(
    private readonly canvas: OffscreenCanvas,
    coding: ColourCoding & { readonly siting: ChromaSiting },
    ground: number,
    card = hasGraphicsCard(),
  ) {
    this.context = card ? null : canvas.getContext('2d', { alpha: false, willReadFrequently: true });
    this.drafts = this.context && new DraftDrawer(this.context, coding, ground);
    const drawn = this.context ? new OffscreenCanvas(canvas.width, canvas.height) : canvas;
    this.exact = new PictureDrawer(drawn, coding, ground);
  }

  /** True when the processor draws drafts, because the exact picture takes its time. */
  get drafting(): boolean {
    return this.drafts !== null;
  }

  resize(width: number, height: number): void {
    for (const canvas of new Set([this.canvas, this.exact.canvas])) {
      canvas.width = width;
      canvas.height = height;
    }
  }

  set ground(grey: number) {
    this.exact.ground = grey;
    if (this.drafts) this.drafts.ground = grey;
  }

  /** Shows what `paint` draws. @param draft  quickly rather than exactly, where it makes a difference */
  show(draft: boolean, paint: (drawer: Drawer) => void): void {
    // An empty canvas shows nothing, and cannot be copied from.
    if (this.canvas.width === 0 || this.canvas.height === 0) return;
    const drawer = (draft && this.drafts) || this.exact;
    drawer.clear();
    paint(drawer);
    drawer.finish();
    if (drawer === this.exact) this.context?.drawImage(this.exact.canvas, 0, 0);
  }
}
