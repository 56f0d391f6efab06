import { LurnError } from '@lurn/core';
import type { QuarterTurns } from '@lurn/core/picture';
import { ALL_FORMATS, EncodedPacketSink, Input, UrlSource, type InputVideoTrack } from 'mediabunny';
import { aheadOf, boundedSamples } from './bounded-samples.js';
import type { DecodedFrame } from './decoded-frame.js';
import { PartedClip } from './parted-clip.js';
import { pictureFrom, type Picture } from './picture.js';

/** A clip as the page plays it. */
export interface ClipFile {
  /** The file; of a copy in parts the place below which they lie, by their numbers. */
  readonly url: string;
  /** Seconds of each frame from frame 0: the frame index that the server made. */
  readonly times: Float64Array;
  /** Size of the upright picture. */
  readonly width: number;
  readonly height: number;
  /** Quarter turns that bring the original upright. A working copy is upright already. */
  readonly turns: QuarterTurns;
  /** True when `url` is a working copy: frame i is its i-th, at i / 25 s. */
  readonly usesCopy: boolean;
  /** Frames of each part where the copy lies in parts; missing where it is one file. */
  readonly part?: number;
}

/** Pictures one after the other; the first that is wanted next may be told. */
export type Pictures = AsyncGenerator<Picture, void, number | undefined>;

/** A clip whose pictures come one after the other from any frame on. */
export interface PictureClip {
  readonly frames: number;
  /** Turns of the pictures that the decoder gives, and their size. */
  readonly turns: QuarterTurns;
  readonly codedWidth: number;
  readonly codedHeight: number;

  /**
   * Pictures from a frame on, in presentation order, each with its frame number. What is passed to `next` is the first
   * frame that is wanted from then on: those before it are decoded and no more.
   *
   * @param gone       asked while a part that is not there yet is waited for: true gives it up
   * @param onWaiting  called when such a wait begins
   * @throws LurnError `stopped` when it was given up, `missing-file`, `offline`, `frame-unreadable`
   */
  picturesFrom(frame: number, gone?: () => boolean, onWaiting?: () => void): Pictures;

  /** The frame at which decoding has to begin to come to a frame; the frame itself where that cannot be told. */
  startFor(frame: number): Promise<number>;
  close(): void;
}

const COPY_RATE = 25;

/** A file, open for decoding. */
interface Opened {
  readonly input: Input;
  readonly track: InputVideoTrack;
  readonly packets: EncodedPacketSink;
  /** Time stamp of its first picture. */
  readonly first: number;
}

/** How the pictures of a file lie as they are decoded. A working copy is upright already. */
export function codedShape({
  width,
  height,
  turns,
  usesCopy,
}: ClipFile): Pick<PictureClip, 'turns' | 'codedWidth' | 'codedHeight'> {
  const turned = !usesCopy && turns % 2 === 1;
  return {
    turns: usesCopy ? 0 : turns,
    codedWidth: turned ? height : width,
    codedHeight: turned ? width : height,
  };
}

/** An open clip: where each frame is in the file or its parts, and a decoder for it. */
export class OpenClip implements PictureClip {
  readonly turns: QuarterTurns;
  readonly codedWidth: number;
  readonly codedHeight: number;
  /** Seconds of each frame of a whole file from its first picture on. */
  private readonly stamps: Float64Array;

  private constructor(
    readonly file: ClipFile,
    private readonly whole: Opened | null,
    private readonly parts: PartedClip | null,
    private readonly shared: boolean,
  ) {
    this.stamps = file.usesCopy ? file.times.map((_, i) => i / COPY_RATE) : file.times;
    ({ turns: this.turns, codedWidth: this.codedWidth, codedHeight: this.codedHeight } = codedShape(file));
  }

  get frames(): number {
    return this.file.times.length;
  }

  /**
   * @param shared  reads into memory that other threads can be lent
   * @throws LurnError `clip-unreadable` when this browser cannot decode the file.
   */
  static async open(file: ClipFile, shared = false): Promise<OpenClip> {
    if (file.part) {
      const most = aheadOf(file.width, file.height);
      return new OpenClip(file, null, new PartedClip(file.url, file.times.length, file.part, most), shared);
    }
    const source = new UrlSource(file.url, { getRetryDelay: (n) => (n < 4 ? 0.3 * 2 ** n : null) });
    return new OpenClip(file, await opened(new Input({ formats: ALL_FORMATS, source })), null, shared);
  }

  async *picturesFrom(
    frame: number,
    gone: () => boolean = () => false,
    onWaiting: () => void = () => undefined,
  ): Pictures {
    const { codedWidth, codedHeight, shared, parts } = this;
    const decoded = parts
      ? parts.samplesFrom(frame, gone, onWaiting)
      : samples(this.whole!, this.stamps, frame, aheadOf(codedWidth, codedHeight));
    let wanted = frame;
    for await (const { frame: at, sample } of decoded) {
      let picture: Picture | null = null;
      try {
        if (at >= wanted) picture = await pictureFrom(sample, at, codedWidth, codedHeight, shared);
      } finally {
        sample.close();
      }
      if (picture) wanted = (yield picture) ?? wanted;
    }
  }

  async startFor(frame: number): Promise<number> {
    if (this.parts) return this.parts.startFor(frame);
    const { packets, first } = this.whole!;
    const key = await packets.getKeyPacket(first + this.stamps[frame] + 1e-4, { metadataOnly: true });
    return key ? nearest(this.stamps, key.timestamp - first) : frame;
  }

  close(): void {
    this.whole?.input.dispose();
    this.parts?.close();
  }
}

async function opened(input: Input): Promise<Opened> {
  const track = await input.getPrimaryVideoTrack();
  if (!track || !(await track.canDecode())) {
    input.dispose();
    throw new LurnError(
      'clip-unreadable',
      'This browser cannot decode the clip. Use a current Chromium or Chrome.',
    );
  }
  return {
    input,
    track,
    packets: new EncodedPacketSink(track),
    first: await track.getFirstTimestamp(),
  };
}

/** Samples from a frame on. @param stamps  seconds of each frame after the first @param most  decoded ahead */
async function* samples(
  { track, first }: Opened,
  stamps: Float64Array,
  frame: number,
  most: number,
): AsyncGenerator<DecodedFrame> {
  const gap = frame + 1 < stamps.length ? stamps[frame + 1] - stamps[frame] : 0.01;
  for await (const sample of boundedSamples(track, first + stamps[frame] + gap * 0.25, most)) {
    yield { frame: nearest(stamps, sample.timestamp - first), sample };
  }
}

/** The frame whose time stamp is nearest. */
function nearest(stamps: Float64Array, stamp: number): number {
  let [low, high] = [0, stamps.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (stamps[middle] < stamp) low = middle + 1;
    else high = middle;
  }
  return low > 0 && stamp - stamps[low - 1] < stamps[low] - stamp ? low - 1 : low;
}
