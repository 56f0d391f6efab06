import * as Comlink from 'comlink';
import {
  FrameReader,
  PictureDrawer,
  type ClipFile,
  type ColourCoding,
  type Pane,
  type Picture,
} from '@lurn/media';
import {
  channelPlane,
  codedToUpright,
  createPlane,
  filterEye,
  invert,
  LurnError,
  multiply,
  type ChromaSiting,
  type Eye,
  type Matrix3,
} from '@lurn/core';

/** What is to be seen: which frame, and the panes it is drawn in. */
export interface View {
  readonly frame: number;
  readonly panes: readonly ViewPane[];
  /** Shows the picture as the tracker sees it; null as it is. */
  readonly eye: Eye | null;
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
  private coding: PictureSetup['coding'] | null = null;
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
    this.coding = setup.coding;
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

  private seen: { readonly key: string; readonly picture: Picture } | null = null;

  /** The picture as the tracker sees it: one filtered channel, without colour. */
  private seenThrough(picture: Picture, eye: Eye): Picture {
    const key = `${picture.frame} ${JSON.stringify(eye)}`;
    if (this.seen?.key === key) return this.seen.picture;
    const channel = channelPlane(picture, eye.channel, this.coding!);
    const out = createPlane(channel.width, channel.height);
    filterEye(channel, eye, out, 0, 0, out.width, out.height);
    if (this.coding!.range === 'tv' && eye.channel !== 'luma') {
      // The drawer takes luma for limited range: full-range values are squeezed into it.
      for (let i = 0; i < out.data.length; i++) out.data[i] = 16 + (out.data[i] * 219) / 255;
    }
    const grey = createPlane(picture.u.width, picture.u.height);
    grey.data.fill(128);
    const { frame, subsampling } = picture;
    const made: Picture = { frame, y: out, u: grey, v: grey, subsampling, bytes: out.data.length };
    this.seen = { key, picture: made };
    return made;
  }

  private paint(): void {
    const { drawer, picture, view } = this;
    if (!drawer || !picture || !view) return;
    drawer.clear();
    drawer.load(view.eye ? this.seenThrough(picture, view.eye) : picture);
    for (const pane of view.panes)
      drawer.drawPane({ ...pane, toLuma: multiply(this.uprightToCoded!, pane.toSource) });
    drawer.read(0, 0, 1, 1); // waits for the graphics card, so that drawing can never fall behind
    this.onShown?.(picture.frame);
  }
}

export type PictureApi = PictureWorker;
Comlink.expose(new PictureWorker());
