import { LurnError, stoppedError, type AbortSignalLike } from '@lurn/core';
import { channelPlane, turnPlane, type Channel, type ColourCode, type Plane } from '@lurn/core/picture';
import type { FrameSource } from '@lurn/core/track';
import { LRUCache } from 'lru-cache';
import { OpenClip, type ClipFile, type PictureClip, type Pictures } from './clip-file.js';
import type { Picture } from './picture.js';

export interface FrameReaderOptions {
  /** The most that cached pictures may take, in bytes. */
  readonly cacheBytes: number;
  /** How many frames are decoded ahead of the one asked for, in the direction of play. */
  readonly readAhead: number;
  /** How colour is coded; needed where more than luma is asked for. */
  readonly colour?: ColourCode;
  /** Reads into memory that other threads can be lent. */
  readonly shared?: boolean;
  /** Is told of a frame that is waited for because its part of the copy is not there yet. */
  readonly onWaiting?: (frame: number) => void;
}

const PLAIN_COLOUR: ColourCode = { range: 'tv', space: 'bt709' };

/** So many frames are decoded on the way without asking whether there is a key frame nearer to the one wanted. */
const SHORT_RUN = 12;
/** ... and with so many from one picture that is kept to the next, far from the one wanted. */
const HOP = 12;
/** Going backwards, decoding starts this many frames early, so that the ones before are cached too. */
const BACK_BLOCK = 24;

/**
 * Frame-exact pictures of a clip, in any order, through a bounded cache. One decoder runs; it goes on from where
 * it is when that leads to the frame, and starts anew at a key frame otherwise.
 */
export class FrameReader implements FrameSource {
  private readonly cache: LRUCache<number, Picture>;
  private run: { pictures: Pictures; next: number } | null = null;
  private queue: Promise<unknown> = Promise.resolve();
  private asked = 0;
  private last = 0;
  private closed = false;
  /** Is shown the pictures that are decoded on the way to one, all of them. */
  passing: ((picture: Picture) => void) | null = null;
  /** Whether what is being decoded is no longer wanted. */
  private gone: () => boolean = () => false;

  constructor(
    readonly clip: PictureClip,
    private readonly options: FrameReaderOptions,
  ) {
    // Two pictures are kept however large they are: one to show, one to compare it with or to measure from.
    const two = 2 * 3 * clip.codedWidth * clip.codedHeight;
    this.cache = new LRUCache({
      maxSize: Math.max(options.cacheBytes, two),
      sizeCalculation: (picture) => picture.bytes,
    });
  }

  static async open(file: ClipFile, options: FrameReaderOptions): Promise<FrameReader> {
    return new FrameReader(await OpenClip.open(file, options.shared), options);
  }

  /** The picture when it is cached. */
  peek(frame: number): Picture | undefined {
    return this.cache.peek(frame);
  }

  /** Keeps a picture that another reader of the same clip has read. */
  keep(picture: Picture): void {
    this.cache.set(picture.frame, picture);
  }

  /**
   * The picture of a frame.
   *
   * @throws LurnError `no-such-frame`, `frame-unreadable`, `stopped` at the signal.
   */
  get(frame: number, signal?: AbortSignalLike): Promise<Picture> {
    if (!Number.isInteger(frame) || frame < 0 || frame >= this.clip.frames) {
      const range = `its frames are 0 to ${this.clip.frames - 1}`;
      return Promise.reject(new LurnError('no-such-frame', `The clip has no frame ${frame}: ${range}.`));
    }
    const direction = frame < this.last ? -1 : 1;
    this.last = frame;
    const ticket = ++this.asked;
    const hit = this.cache.get(frame);
    if (hit) {
      this.readAhead(frame, direction, ticket);
      return Promise.resolve(hit);
    }
    const picture = this.inTurn(() => this.decode(frame, direction, signal));
    picture.then(
      () => this.readAhead(frame, direction, ticket),
      () => undefined,
    );
    return picture;
  }

  luma(frame: number, signal?: AbortSignalLike): Promise<Plane> {
    return this.plane(frame, 'luma', signal);
  }

  /** One channel as the tracker wants it: upright, exactly the clip's size. */
  async plane(frame: number, channel: Channel, signal?: AbortSignalLike): Promise<Plane> {
    const picture = await this.get(frame, signal);
    return turnPlane(channelPlane(picture, channel, this.options.colour ?? PLAIN_COLOUR), this.clip.turns);
  }

  /** Luma, as {@link luma} gives it, and both colour differences as coarse as they are, upright. */
  async planes(frame: number, signal?: AbortSignalLike): Promise<{ luma: Plane; chroma: [Plane, Plane] }> {
    const picture = await this.get(frame, signal);
    const [luma, u, v] = [picture.y, picture.u, picture.v].map((p) => turnPlane(p, this.clip.turns));
    return { luma, chroma: [u, v] };
  }

  close(): void {
    this.closed = true;
    void this.run?.pictures.return(undefined);
    this.cache.clear();
    this.clip.close();
  }

  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const result = this.queue.then(work);
    this.queue = result.catch(() => undefined);
    return result;
  }

  /** Decodes a few frames more, as long as nobody asks for something else. */
  private readAhead(frame: number, direction: 1 | -1, ticket: number): void {
    const wanted =
      direction > 0 ? Math.min(this.clip.frames - 1, frame + this.options.readAhead) : Math.max(0, frame - 2);
    void this.inTurn(async () => {
      for (let f = frame + direction; direction > 0 ? f <= wanted : f >= wanted; f += direction) {
        if (this.asked !== ticket || this.closed) return;
        // What is not there yet is not waited for.
        if (!this.cache.has(f)) await this.decode(f, direction, undefined, () => true);
      }
    }).catch(() => undefined);
  }

  private async decode(
    frame: number,
    direction: 1 | -1,
    signal?: AbortSignalLike,
    gone = () => signal?.aborted ?? false,
  ): Promise<Picture> {
    const hit = this.cache.get(frame);
    if (hit) return hit;
    this.gone = gone;
    if (signal?.aborted) throw stoppedError('Reading the frame');
    if (!this.run || !(await this.leadsTo(frame, this.run.next))) {
      await this.run?.pictures.return(undefined);
      const start = direction < 0 ? Math.max(0, frame - this.backBlock()) : frame;
      const onWaiting = () => this.options.onWaiting?.(this.last);
      this.run = { pictures: this.clip.picturesFrom(start, () => this.gone(), onWaiting), next: start };
    }
    for (;;) {
      // Of a long way only those are kept that are likely to be wanted next, since that costs as much as decoding them;
      // and one now and then, so that it can be left in the middle.
      const wanted = this.passing ? undefined : Math.min(frame - this.backBlock(), this.run.next + HOP);
      const { value: picture } = await this.run.pictures.next(wanted).catch((error: unknown) => {
        this.run = null;
        throw error;
      });
      if (!picture || this.closed) {
        this.run = null;
        throw new LurnError('frame-unreadable', `Frame ${frame} cannot be decoded: the file ends before it.`);
      }
      this.run.next = picture.frame + 1;
      this.cache.set(picture.frame, picture);
      if (picture.frame === frame) return picture;
      this.passing?.(picture);
      if (picture.frame > frame) {
        this.run = null;
        throw new LurnError(
          'frame-unreadable',
          `Frame ${frame} is missing from the file as the browser decodes it.`,
        );
      }
      if (signal?.aborted) throw stoppedError('Reading the frame');
    }
  }

  /** True when going on from `next` comes to a frame no later than a new start at the key frame before it. */
  private async leadsTo(frame: number, next: number): Promise<boolean> {
    if (frame < next) return false;
    return frame - next <= SHORT_RUN || (await this.clip.startFor(frame)) <= next;
  }

  private backBlock(): number {
    const bytes = this.clip.codedWidth * this.clip.codedHeight * 1.5;
    return Math.max(2, Math.min(BACK_BLOCK, Math.floor(this.options.cacheBytes / bytes / 2)));
  }
}
