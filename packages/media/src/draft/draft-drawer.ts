import type { ChromaSiting } from '@lurn/core';
import type { Drawer, Laying, Pane } from '../drawer.js';
import type { ColourCoding } from '../gl/colour.js';
import type { Picture } from '../picture.js';
import { draftPane } from './draft-pane.js';
import { colourTables, greyPixel, type ColourTables } from './raster.js';
import { Halver } from './sampled.js';

/** Draws with the processor alone, quickly and not quite exactly ({@link draftPane}). */
export class DraftDrawer implements Drawer {
  private readonly halver = new Halver();
  private tables: { readonly height: number; readonly made: ColourTables } | null = null;
  private image = new ImageData(1, 1);
  private pixels = new Int32Array(this.image.data.buffer);

  constructor(
    private readonly context: OffscreenCanvasRenderingContext2D,
    private readonly coding: ColourCoding & { readonly siting: ChromaSiting },
    public ground = 0.2,
  ) {}

  clear(): void {
    const { width, height } = this.context.canvas;
    if (this.image.width !== width || this.image.height !== height) {
      this.image = new ImageData(Math.max(1, width), Math.max(1, height));
      this.pixels = new Int32Array(this.image.data.buffer);
    }
    this.pixels.fill(greyPixel(this.ground));
  }

  drawPane(picture: Picture, pane: Pane, laying: Laying = 'over'): void {
    const { height } = picture.y;
    if (this.tables?.height !== height) this.tables = { height, made: colourTables(this.coding, height) };
    const { width, height: rows } = this.image;
    draftPane(
      { width, height: rows, pixels: this.pixels },
      picture,
      pane,
      { coding: this.coding, tables: this.tables.made, halver: this.halver },
      laying,
    );
  }

  finish(): void {
    this.context.putImageData(this.image, 0, 0);
  }
}
