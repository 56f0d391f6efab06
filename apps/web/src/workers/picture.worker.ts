import { Comlink } from './comlink';
import {
  FrameReader,
  type ClipFile,
  type ColourCoding,
  PictureCanvas,
  type DonorSheet,
  type Drawer,
  type Laying,
  type Pane,
  type PaneEdges,
  type Picture,
} from '@lurn/media';
import {
  after,
  between,
  channelPlane,
  chromaWarp,
  codedToUpright,
  colourInPlanes,
  createPlane,
  donorOffset,
  featherOf,
  filterEye,
  invert,
  LurnError,
  type ChromaSiting,
  type Eye,
  type Matrix3,
  type Rgb,
  type Scene,
  type Size,
  type Warp,
} from '@lurn/core';

/** What is to be seen: which frame, and the panes it is drawn in. */
export interface View {
  readonly frame: number;
  readonly panes: readonly ViewPane[];
  /** Shows the picture as the tracker sees it; null as it is. */
  readonly eye: Eye | null;
  /** While playing, other frames that a pane needs are drawn only if they are at hand. */
  readonly hurried: boolean;
  /** Quickly rather than exactly, where that makes a difference. */
  readonly draft: boolean;
}

/** A part of the canvas, and the scene that is seen in it. */
export interface ViewPane extends Pick<Pane, 'x' | 'y' | 'width' | 'height' | 'quality'> {
  readonly scene: Scene;
  /** Pane pixels to those of the scene. */
  readonly toScene: Matrix3;
  /** Another frame laid half over this one: the reference frame, as it is (onion) or as a negative (difference). */
  readonly over: {
    readonly frame: number;
    /** Pixels of the scene to upright source pixels. */
    readonly toSource: Warp;
    readonly laying: Exclude<Laying, 'over'>;
  } | null;
}

export interface PictureSetup {
  readonly canvas: OffscreenCanvas;
  readonly file: ClipFile;
  readonly coding: ColourCoding & { readonly siting: ChromaSiting };
  readonly ground: number;
}

/** @param waiting  other frames that the picture is made of are still missing */
type OnShown = (frame: number, waiting: boolean) => void;

const READER = { cacheBytes: 400e6, readAhead: 6 };

/** Decodes and draws the picture, off the main thread. The newest view wins; what it replaces is given up. */
class PictureWorker {
  private reader: FrameReader | null = null;
  private screen: PictureCanvas | null = null;
  private uprightToCoded: Matrix3 | null = null;
  private picture: Picture | null = null;
  private view: View | null = null;
  private coding: PictureSetup['coding'] | null = null;
  private busy = false;
  private onShown: OnShown | null = null;
  private onError: ((code: string, message: string) => void) | null = null;

  /** @returns true when drawing exactly is slow here, so that a draft should come first */
  async open(
    setup: PictureSetup,
    onShown: OnShown,
    onError: (code: string, message: string) => void,
  ): Promise<boolean> {
    this.onShown = onShown;
    this.onError = onError;
    this.coding = setup.coding;
    this.screen = new PictureCanvas(setup.canvas, setup.coding, setup.ground);
    this.reader = await FrameReader.open(setup.file, READER);
    const { turns } = this.reader.clip;
    this.uprightToCoded = invert(codedToUpright(turns, setup.file.width, setup.file.height));
    void this.work();
    return this.screen.drafting;
  }

  resize(width: number, height: number): void {
    if (!this.screen) return;
    this.screen.resize(width, height);
    // It is blank now; the page asks for the exact picture when it has come to rest.
    this.paint(true);
  }

  setGround(ground: number): void {
    if (!this.screen) return;
    this.screen.ground = ground;
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
        // While playing, what is under way is shown though the playhead has moved on: else nothing ever would be.
        const stale = setInterval(() => {
          signal.aborted = this.view?.frame !== wanted && !this.view?.hurried;
        }, 30);
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

  private paint(draft = this.view?.draft ?? false): void {
    const { screen, picture, view } = this;
    if (!screen || !picture || !view) return;
    const missing = new Set<number>();
    screen.show(draft, (drawer) => this.paintPanes(drawer, picture, view, missing));
    this.onShown?.(picture.frame, missing.size > 0);
    if (missing.size > 0 && !view.hurried) void this.fetch([...missing]);
  }

  private paintPanes(drawer: Drawer, picture: Picture, view: View, missing: Set<number>): void {
    const seen = view.eye ? this.seenThrough(picture, view.eye) : picture;
    // The eye's view is the tracker's: nothing is borrowed or laid over it.
    const plain = view.eye !== null;
    for (const pane of view.panes) {
      const { scene, toScene, over } = pane;
      const { size, base } = scene;
      const toLuma = (warp: Warp) => between(this.uprightToCoded!, warp, toScene);
      const whole: Pane = {
        ...pane,
        toFrame: toScene,
        frameSize: [size.width, size.height],
        toLuma: toLuma(base.toSource),
      };
      const edges = plain ? undefined : this.edgesOf(scene, picture, toLuma, missing);
      drawer.drawPane(seen, { ...whole, edges });
      if (!over || plain) continue;
      const laid = this.reader!.peek(over.frame);
      if (!laid) missing.add(over.frame);
      else drawer.drawPane(laid, { ...whole, toLuma: toLuma(over.toSource) }, over.laying);
    }
  }

  private fetching = false;

  /** Reads the other frames that a view needs, and paints again with them; what has changed meanwhile comes first. */
  private async fetch(frames: readonly number[]): Promise<void> {
    if (this.fetching) return;
    this.fetching = true;
    const isCurrent = (
      (view) => () =>
        this.view === view
    )(this.view);
    // Left even in the middle of a long way to a donor, so that what is played never waits for it.
    const signal = {
      get aborted() {
        return !isCurrent();
      },
    };
    try {
      for (const frame of frames) await this.reader!.get(frame, signal);
    } catch (error) {
      // The frame itself is shown; what is wrong with another is told when that one is.
      if (!(error instanceof LurnError && error.code === 'stopped')) return;
    } finally {
      this.fetching = false;
    }
    this.paint();
  }

  private edgesOf(
    { base, size }: Scene,
    picture: Picture,
    toLuma: (warp: Warp) => Warp,
    missing: Set<number>,
  ): PaneEdges {
    const colour = colourInPlanes(base.edges.colour, this.coding!, picture.y.height);
    const coded = (warp: Warp) => after(this.uprightToCoded!, warp);
    const donors: DonorSheet[] = [];
    for (const { frame, toSource } of base.donors) {
      const lent = this.reader!.peek(frame);
      if (!lent) {
        missing.add(frame);
        continue;
      }
      const offset = this.match(picture, coded(base.toSource), lent, coded(toSource), size);
      donors.push({ picture: lent, toLuma: toLuma(toSource), offset });
    }
    return { mode: base.edges.mode, colour, donors };
  }

  /** By how much a donor's exposure differs, plane by plane, as the renderer finds it. */
  private match(own: Picture, ownLuma: Warp, donor: Picture, donorLuma: Warp, delivery: Size): Rgb {
    const { siting } = this.coding!;
    const { subsampling } = own;
    const chroma = (warp: Warp) => chromaWarp(warp, subsampling, siting);
    const feather = featherOf(own.y);
    const small = { width: delivery.width / subsampling.x, height: delivery.height / subsampling.y };
    const planes = (['y', 'u', 'v'] as const).map((k) => {
      const luma = k === 'y';
      return donorOffset(
        { plane: own[k], toSource: luma ? ownLuma : chroma(ownLuma), offset: 0 },
        { plane: donor[k], toSource: luma ? donorLuma : chroma(donorLuma), offset: 0 },
        luma ? delivery : small,
        luma ? feather : feather / subsampling.y,
      );
    });
    return [planes[0], planes[1], planes[2]];
  }
}

export type PictureApi = PictureWorker;
Comlink.expose(new PictureWorker());
