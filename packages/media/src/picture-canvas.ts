import type { ChromaSiting } from '@lurn/core/picture';
import { ProcessorDrawer } from './draft/processor-drawer.js';
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
 * The canvas on which pictures are seen. WebGL2 draws them; where no graphics card is behind it, the processor is quicker by
 * itself: it draws exactly, and drafts where even that takes longer than a frame lasts.
 */
export class PictureCanvas {
  private readonly drawer: Drawer;

  /** @throws LurnError `no-webgl` */
  constructor(
    private readonly canvas: OffscreenCanvas,
    coding: ColourCoding & { readonly siting: ChromaSiting },
    ground: number,
    private readonly card = hasGraphicsCard(),
  ) {
    this.drawer = card
      ? new PictureDrawer(canvas, coding, ground)
      : new ProcessorDrawer(
          canvas.getContext('2d', { alpha: false, willReadFrequently: true })!,
          coding,
          ground,
        );
  }

  /** True when the processor draws, for which the exact picture takes its time: it is worth a draft. */
  get drafting(): boolean {
    return !this.card;
  }

  resize(width: number, height: number): void {
    this.canvas.width = width;
    this.canvas.height = height;
  }

  set ground(grey: number) {
    this.drawer.ground = grey;
  }

  /** Shows what `paint` draws. */
  show(paint: (drawer: Drawer) => void): void {
    // An empty canvas shows nothing, and cannot be copied from.
    if (this.canvas.width === 0 || this.canvas.height === 0) return;
    this.drawer.clear();
    paint(this.drawer);
    this.drawer.finish();
  }
}
