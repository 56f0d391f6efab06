import { ToneMap, type ChromaSiting } from '@lurn/core/picture';
import type { Drawer, Laying, Pane } from '../drawer.js';
import type { ColourCoding } from '../gl/colour.js';
import type { Picture } from '../picture.js';
import { draftPane, edgesWithout, openBeyond, shownPart } from './draft-pane.js';
import { exactPicture } from './exact-picture.js';
import { colourTables, greyPixel, laidOver, type ColourTables, type Raster } from './raster.js';
import { Halver } from './sampled.js';
import { tonePixels } from './tone-pixels.js';

/**
 * Draws with the processor alone: what is to be cubic exactly ({@link exactPicture}), all else quickly and not quite exactly
 * ({@link draftPane}).
 */
export class ProcessorDrawer implements Drawer {
  private readonly halver = new Halver();
  private tables: { readonly height: number; readonly made: ColourTables } | null = null;
  private image = new ImageData(1, 1);
  private pixels = new Int32Array(this.image.data.buffer);
  /** For HDR: shown otherwise than it is coded, before it is laid over anything. */
  private readonly tone: ToneMap | null;
  private own = new Int32Array(0);

  constructor(
    private readonly context: OffscreenCanvasRenderingContext2D,
    private readonly coding: ColourCoding & { readonly siting: ChromaSiting },
    public ground = 0.2,
  ) {
    this.tone = ToneMap.for(coding);
  }

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
    const raster = { width, height: rows, pixels: this.pixels };
    const edges = pane.edges ?? edgesWithout(this.coding);
    // What is half seen has its chequer half seen, too: the draft knows how.
    const open = edges.mode === 'transparent';
    if (pane.quality !== 'cubic' || (open && laying !== 'over')) {
      this.draw(raster, picture, { ...pane, edges }, laying);
      return;
    }
    const part = shownPart(raster, pane);
    if (part.left >= part.right || part.top >= part.bottom) return;
    const exact = exactPicture(picture, pane, part, edges, this.coding.siting);
    this.draw(raster, exact.picture, exact.pane, laying);
    if (open) openBeyond(raster, pane, part, picture.y);
  }

  private draw(raster: Raster, picture: Picture, pane: Pane, laying: Laying): void {
    const look = { coding: this.coding, tables: this.tables!.made, halver: this.halver };
    if (!this.tone) draftPane(raster, picture, pane, look, laying);
    else this.drawToned(raster, laying, this.tone, pane, (own) => draftPane(own, picture, pane, look));
  }

  private drawToned(
    raster: Raster,
    laying: Laying,
    tone: ToneMap,
    pane: Pane,
    draw: (own: Raster) => void,
  ): void {
    const part = shownPart(raster, pane);
    if (this.own.length !== raster.pixels.length) this.own = new Int32Array(raster.pixels.length);
    const own = laying === 'over' ? raster : { ...raster, pixels: this.own };
    draw(own);
    tonePixels(own, part, tone);
    if (laying === 'over') return;
    for (let j = part.top; j < part.bottom; j++) {
      for (let k = j * raster.width + part.left; k < j * raster.width + part.right; k++)
        raster.pixels[k] = laidOver(own.pixels[k], raster.pixels[k], laying === 'half negative');
    }
  }

  finish(): void {
    this.context.putImageData(this.image, 0, 0);
  }
}
