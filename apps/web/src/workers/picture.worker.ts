import * as Comlink from 'comlink';
import {
  FrameReader,
  PictureDrawer,
  type ClipFile,
  type ColourCoding,
  type Pane,
  type Picture,
} from '@lurn/media';
import { codedToUpright, invert, LurnError, multiply, type ChromaSiting, type Matrix3 } from '@lurn/core';

/** What is to be seen: which frame, and the panes it is drawn in. */
export interface View {
  readonly frame: number;
  readonly panes: readonly ViewPane[];
}

export interface ViewPane extends Omit<Pane, 'toLuma'> {
  /** Pane pixels to upright source pixels. */
  readonly toSource: Matrix3;
}

export interface PictureSetup {
  readonly canvas: OffscreenCanvas;
  readonly file: ClipFile;
  readonly coding: ColourCoding & { readonly siting: ChromaSiting };
  readonly ground: number;
}

const READER = { cacheBytes: 400e6, readAhead: 6 };

/** Decodes and draws the picture, off the main thread. The newest view wins; what it replaces is given up. */
class PictureWorker {
  private reader: FrameReader | null = null;
  private drawer: PictureDrawer | null = null;
  private uprightToCoded: Matrix3 | null = null;
  private picture: Picture | null = null;
  private view: View | null = null;
  private busy = false;
  private onShown: ((frame: number) => void) | null = null;
  private onError: ((code: string, message: string) => void) | null = null;

  async open(
    setup: PictureSetup,
    onShown: (frame: number) => void,
    onError: (code: string, message: string) => void,
  ): Promise<void> {
    this.onShown = onShown;
    this.onError = onError;
    this.drawer = new PictureDrawer(setup.canvas, setup.coding, setup.ground);
    this.reader = await FrameReader.open(setup.file, READER);
    const { turns } = this.reader.clip;
    this.uprightToCoded = invert(codedToUpright(turns, setup.file.width, setup.file.height));
    void this.work();
  }

  resize(width: number, height: number): void {
    if (!this.drawer) return;
    this.drawer.canvas.width = width;
    this.drawer.canvas.height = height;
    this.paint();
  }

  setGround(ground: number): void {
    if (!this.drawer) return;
    this.drawer.ground = ground;
    this.paint();
  }

  /** @returns milliseconds that drawing took; 0 when the picture is still being decoded */
  show(view: View): number {
    this.view = view;
    const cached = this.reader?.peek(view.frame);
    if (cached) {
      this.picture = cached;
      const start = performance.now();
      this.paint();
      void this.reader!.get(view.frame); // keeps it recent and reads ahead
      return performance.now() - start;
    }
    void this.work();
    return 0;
  }

  private async work(): Promise<void> {
    if (this.busy || !this.reader) return;
    this.busy = true;
    try {
      while (this.view && this.view.frame !== this.picture?.frame) {
        const wanted = this.view.frame;
        const signal = { aborted: false };
        const stale = setInterval(() => (signal.aborted = this.view?.frame !== wanted), 30);
        try {
          this.picture = await this.reader.get(wanted, signal);
          this.paint();
        } catch (error) {
          if (!(error instanceof LurnError && error.code === 'stopped')) throw error;
        } finally {
          clearInterval(stale);
        }
      }
      this.paint();
    } catch (error) {
      const known = error instanceof LurnError ? error : new LurnError('frame-unreadable', String(error));
      this.onError?.(known.code, known.message);
    } finally {
      this.busy = false;
    }
  }

  private paint(): void {
    const { drawer, picture, view } = this;
    if (!drawer || !picture || !view) return;
    drawer.clear();
    drawer.load(picture);
    for (const pane of view.panes)
      drawer.drawPane({ ...pane, toLuma: multiply(this.uprightToCoded!, pane.toSource) });
    drawer.read(0, 0, 1, 1); // waits for the graphics card, so that drawing can never fall behind
    this.onShown?.(picture.frame);
  }
}

export type PictureApi = PictureWorker;
Comlink.expose(new PictureWorker());
