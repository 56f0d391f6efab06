import type { RasterSource } from '@lurn/model';
import { Comlink } from './comlink';
import { DecodedElsewhere } from './decoding';
import { regionOfColour } from './like-region';
import { meanColour } from './mean-colour';
import { LayeredPanes, type Composed } from './layered-panes';
import { Rasters } from './rasters';
import type { ViewPane } from './view-pane';
import {
  FrameReader,
  type FrameReaderOptions,
  type ClipFile,
  type ColourCoding,
  PictureCanvas,
  type DonorSheet,
  type Drawer,
  type Pane,
  type PaneEdges,
  type Picture,
} from '@lurn/media';
import { LurnError } from '@lurn/core';
import type { Scene } from '@lurn/core/compose';
import {
  after,
  apply,
  between,
  codedToUpright,
  invert,
  multiply,
  type Matrix3,
  type Region,
  type Warp,
} from '@lurn/core/geometry';
import {
  channelPlane,
  colourInPlanes,
  createPlane,
  filterEye,
  PlaneCoding,
  type ChromaSiting,
  type Eye,
  type Rgb,
} from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan';
import { chromaWarp, donorOffset, featherOf } from '@lurn/core/warp';

/** What is to be seen: which frame, and the panes it is drawn in. */
export interface View {
  readonly frame: number;
  readonly panes: readonly ViewPane[];
  /** Shows the picture as the tracker sees it; null as it is. */
  readonly eye: Eye | null;
  /** While playing, other frames that a pane needs are drawn only if they are at hand. */
  readonly hurried: boolean;
  /** While tracking, the pictures that are measured are lent: they are not to be read a second time. */
  readonly lent: boolean;
  /** Quickly rather than exactly, where that makes a difference. */
  readonly draft: boolean;
}

export interface PictureSetup {
  readonly canvas: OffscreenCanvas;
  readonly file: ClipFile;
  /** A copy in reduced size, for playing what cannot be played as it is. */
  readonly reduced: ClipFile | null;
  /** How the clip's planes code colours, and its height. */
  readonly coding: ColourCoding & { readonly siting: ChromaSiting; readonly height: number };
  readonly ground: number;
}

/** What is seen now. */
export interface Shown {
  readonly frame: number;
  /** Other frames that the picture is made of are still missing. */
  readonly waiting: boolean;
  /** Size of the copy that is seen in the full picture's place. */
  readonly reduced: Size | null;
}

const READER = { cacheBytes: 400e6, readAhead: 6 };
/** Where two are read, they share. */
const SHARED = { cacheBytes: 150e6, readAhead: 6 };

/** A picture, and what it was read from. */
interface Seen extends Picture {
  readonly from: Source;
}

/** Pictures that come by far behind the playhead are painted so seldom that it does not hold decoding up, in milliseconds. */
const PASSING_MS = 70;
/** Far behind is by more frames than this. The playhead waits for a picture that is. */
const FAR_BEHIND = 10;

/** A picture that should be lent is read when it has not come after so many milliseconds. */
const LENDING_MS = 400;

/** Colours so far beyond a range belong to it in part. */
const SOFTLY = 0.04;

/** How long after a part of the reduced copy was missing it is tried again, in milliseconds. */
const ASK_AGAIN_MS = 2000;

/** Something that pictures are read from. */
interface Source {
  readonly reader: FrameReader;
  /** Places of the clip's upright picture to luma samples as they are decoded. */
  readonly fromUpright: Matrix3;
  /** Its size where it is a reduced copy. */
  readonly reduced: Size | null;
}

async function sourceOf(file: ClipFile, whole: ClipFile, options: FrameReaderOptions): Promise<Source> {
  const reader = new FrameReader(await DecodedElsewhere.open(file), options);
  const { width, height } = file;
  const fromUpright = invert(codedToUpright(reader.clip.turns, width, height));
  if (file === whole) return { reader, fromUpright, reduced: null };
  const shrunk: Matrix3 = [width / whole.width, 0, 0, 0, height / whole.height, 0, 0, 0, 1];
  return { reader, fromUpright: multiply(fromUpright, shrunk), reduced: { width, height } };
}

/** In a page that is not seen nothing is presented, and this long is waited, in milliseconds. */
const UNSEEN_MS = 100;

/** Settles when what has been drawn is on its way to the screen. */
function presented(): Promise<void> {
  return new Promise((resolve) => {
    const timer = setTimeout(resolve, UNSEEN_MS);
    requestAnimationFrame(() => {
      clearTimeout(timer);
      resolve();
    });
  });
}

/** Decodes and draws the picture, off the main thread. The newest view wins; what it replaces is given up. */
class PictureWorker {
  private full: Source | null = null;
  private small: Source | null = null;
  /** Until when the reduced copy is not tried again, on the worker's clock. */
  private unreducedUntil = 0;
  private screen: PictureCanvas | null = null;
  private picture: Seen | null = null;
  private view: View | null = null;
  private coding: PictureSetup['coding'] | null = null;
  private busy = false;
  private readonly rasters = new Rasters(
    () => this.paint(),
    (source, message) => this.onRasterFailed?.(source.key, message),
  );
  private onRasterFailed: ((key: string, message: string) => void) | null = null;
  private onShown: ((shown: Shown) => void) | null = null;
  private onError: ((code: string, message: string) => void) | null = null;

  /**
   * @param onWaiting  is told of a frame that is not there yet: its part of the clip is still being copied
   * @returns true when the exact picture takes its time here, so that a draft should come first
   */
  async open(
    setup: PictureSetup,
    onShown: (shown: Shown) => void,
    onWaiting: (frame: number) => void,
    onError: (code: string, message: string) => void,
  ): Promise<boolean> {
    this.onShown = onShown;
    this.onError = onError;
    this.coding = setup.coding;
    this.screen = new PictureCanvas(setup.canvas, setup.coding, setup.ground);
    const { file, reduced } = setup;
    const options = reduced ? SHARED : READER;
    // Where the reduced copy has not come so far yet, the full picture stands in for it.
    const missing = () => (this.unreducedUntil = performance.now() + ASK_AGAIN_MS);
    [this.full, this.small] = await Promise.all([
      sourceOf(file, file, { ...options, onWaiting }),
      reduced ? sourceOf(reduced, file, { ...options, onWaiting: missing }) : null,
    ]);
    void this.work();
    return this.screen.drafting || this.small !== null;
  }

  /** Takes over what the shot's layers show. @param onFailed  is told of what cannot be had */
  wantRasters(sources: readonly RasterSource[], onFailed: (key: string, message: string) => void): void {
    this.onRasterFailed = onFailed;
    this.rasters.want(sources);
    this.paint();
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
    const from = this.sourceFor(view);
    const cached = from?.reader.peek(view.frame);
    if (from && cached) {
      this.picture = { ...cached, from };
      const start = performance.now();
      this.paint();
      // Keeps it recent and reads ahead.
      if (!view.lent) from.reader.get(view.frame).catch(() => undefined);
      return performance.now() - start;
    }
    if (view.lent) setTimeout(() => this.view === view && void this.work(), LENDING_MS);
    else void this.work();
    return 0;
  }

  /** Red, green and blue about a place of the picture as shot that is shown, the mean of nine samples; null beyond it. */
  colourAt(x: number, y: number): Rgb | null {
    const { picture, coding } = this;
    if (!picture || !coding) return null;
    const at = apply(picture.from.fromUpright, x, y);
    return meanColour(picture, at, new PlaneCoding(coding, coding.height));
  }

  /**
   * What hangs together with a place of the picture as shot that is shown, and has a colour near the one there; null beyond it.
   *
   * @param reach  how far from it, 0 to 1 of the way from black to white
   */
  regionAt(x: number, y: number, reach: number): Region | null {
    const { picture, coding } = this;
    const colour = this.colourAt(x, y);
    if (!picture || !coding || !colour) return null;
    const range = { colour, reach, soften: SOFTLY, brightness: false };
    const planes = new PlaneCoding(coding, coding.height);
    return regionOfColour(picture, planes, range, { x, y }, picture.from.fromUpright);
  }

  /** Takes over the pictures that somebody else reads of the same file. */
  borrowFrom(lender: MessagePort): void {
    lender.onmessage = ({ data }: MessageEvent<Picture>) => {
      const { full, view } = this;
      if (!full || !view?.lent) return;
      full.reader.keep(data);
      if (data.frame !== view.frame || this.picture?.frame === data.frame) return;
      this.picture = { ...data, from: full };
      this.paint();
    };
  }

  /** A draft is made from the reduced copy, unless it is looked at so closely that this would be seen. */
  private sourceFor(view: View): Source | null {
    const close = view.panes.some(({ toScene }) => Math.hypot(toScene[0], toScene[3]) < 1);
    if (view.lent && this.full?.reader.peek(view.frame)) return this.full;
    const there = performance.now() > this.unreducedUntil;
    return view.draft && !close && !view.eye && there && this.small ? this.small : this.full;
  }

  private async work(): Promise<void> {
    if (this.busy || !this.full) return;
    this.busy = true;
    const wants = ({ frame, from }: Pick<Seen, 'frame' | 'from'>) => {
      const view = this.view!;
      return view.frame === frame && this.sourceFor(view) === from;
    };
    try {
      while (this.view && !(this.picture && wants(this.picture))) {
        const wanted = { frame: this.view.frame, from: this.sourceFor(this.view)! };
        const signal = { aborted: false };
        // While playing, what is under way is shown though the playhead has moved on: else nothing ever would be.
        const stale = setInterval(() => {
          const view = this.view!;
          const moved = view.frame !== wanted.frame && !view.hurried;
          const missing = wanted.from === this.small && this.sourceFor(view) !== wanted.from;
          signal.aborted = moved || missing;
        }, 30);
        try {
          if (this.view.hurried)
            wanted.from.reader.passing = (picture) => this.pass({ ...picture, from: wanted.from });
          const picture = await wanted.from.reader.get(wanted.frame, signal);
          this.picture = { ...picture, from: wanted.from };
          this.paint();
        } catch (error) {
          if (!(error instanceof LurnError && error.code === 'stopped')) throw error;
        } finally {
          wanted.from.reader.passing = null;
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

  private passed = 0;

  /** While decoding does not keep up with the playhead, what comes by is seen: else the picture would stand still. */
  private pass(picture: Seen): void {
    if (!this.view?.hurried) return;
    const far = Math.abs(this.view.frame - picture.frame) > FAR_BEHIND;
    if (far && performance.now() - this.passed < PASSING_MS) return;
    this.passed = performance.now();
    this.picture = picture;
    this.paint();
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
    screen.show((drawer) => this.paintPanes(drawer, picture, draft ? drafted(view) : view, missing));
    const { frame, from } = picture;
    const shown = { frame, waiting: missing.size > 0, reduced: from.reduced };
    // What lies on the picture goes with it: it is told of when the page has it, not when drawing it has been asked for.
    void presented().then(() => this.onShown?.(shown));
    if (missing.size > 0 && !view.hurried) void this.fetch([...missing]);
  }

  private paintPanes(drawer: Drawer, picture: Seen, view: View, missing: Set<number>): void {
    const seen = view.eye ? this.seenThrough(picture, view.eye) : picture;
    // The eye's view is the tracker's: nothing is borrowed or laid over it.
    const plain = view.eye !== null;
    for (const pane of view.panes) {
      const { scene, toScene, over } = pane;
      const { size, base } = scene;
      const toLuma = (warp: Warp) => between(picture.from.fromUpright, warp, toScene);
      const whole: Pane = {
        ...pane,
        toFrame: toScene,
        frameSize: [size.width, size.height],
        toLuma: toLuma(base.toSource),
      };
      if (scene.layers.length > 0 && !plain) {
        const composed = this.composed(pane, picture, missing);
        if (composed) drawer.drawPane(composed.picture, { ...whole, toLuma: composed.toLuma });
        if (composed || this.view?.hurried) continue;
      }
      const edges = plain ? undefined : this.edgesOf(scene, picture, toLuma, missing);
      drawer.drawPane(seen, { ...whole, edges });
      if (!over || plain) continue;
      const laid = picture.from.reader.peek(over.frame);
      if (!laid) missing.add(over.frame);
      else drawer.drawPane(laid, { ...whole, toLuma: toLuma(over.toSource) }, over.laying);
    }
  }

  private fetching = false;

  /** Reads the other frames that a view needs, and paints again with them; what has changed meanwhile comes first. */
  private async fetch(frames: readonly number[]): Promise<void> {
    if (this.fetching) return;
    this.fetching = true;
    const { reader } = this.picture!.from;
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
      for (const frame of frames) await reader.get(frame, signal);
    } catch (error) {
      // The frame itself is shown; what is wrong with another is told when that one is.
      if (!(error instanceof LurnError && error.code === 'stopped')) return;
    } finally {
      this.fetching = false;
    }
    this.paint();
  }

  private readonly layered = new LayeredPanes();

  private composed(pane: ViewPane, picture: Seen, missing: Set<number>): Composed | null {
    const { fromUpright, reader } = picture.from;
    const { rasters } = this;
    const peek = (frame: number) => reader.peek(frame);
    const draft = this.view?.draft ?? false;
    const from = { coding: this.coding!, picture, fromUpright, peek, rasters: rasters.get, draft };
    return this.layered.compose(pane, from, missing);
  }

  private edgesOf(
    { base, size }: Scene,
    picture: Seen,
    toLuma: (warp: Warp) => Warp,
    missing: Set<number>,
  ): PaneEdges {
    const colour = colourInPlanes(base.edges.colour, this.coding!, picture.y.height);
    const coded = (warp: Warp) => after(picture.from.fromUpright, warp);
    const donors: DonorSheet[] = [];
    for (const { frame, toSource } of base.donors) {
      const lent = picture.from.reader.peek(frame);
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

/** The view as it is drawn quickly. */
function drafted(view: View): View {
  const quick = (pane: ViewPane): ViewPane =>
    pane.quality === 'cubic' ? { ...pane, quality: 'linear' } : pane;
  return { ...view, panes: view.panes.map(quick) };
}

export type PictureApi = PictureWorker;
Comlink.expose(new PictureWorker());
