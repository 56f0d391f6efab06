import { LurnError, type QuarterTurns } from '@lurn/core';
import { ALL_FORMATS, Input, UrlSource, VideoSampleSink } from 'mediabunny';

/** A clip as the page plays it. */
export interface ClipFile {
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
}

const COPY_RATE = 25;

/** An open clip: where each frame is in the file, and a decoder for it. */
export class OpenClip {
  /** Turns of the pictures that the decoder gives. */
  readonly turns: QuarterTurns;
  /** Size of those pictures. */
  readonly codedWidth: number;
  readonly codedHeight: number;
  private readonly stamps: Float64Array;

  private constructor(
    readonly file: ClipFile,
    private readonly input: Input,
    private readonly sink: VideoSampleSink,
    first: number,
  ) {
    this.turns = file.usesCopy ? 0 : file.turns;
    this.codedWidth = this.turns % 2 ? file.height : file.width;
    this.codedHeight = this.turns % 2 ? file.width : file.height;
    this.stamps = file.usesCopy
      ? file.times.map((_, i) => first + i / COPY_RATE)
      : file.times.map((t) => first + t);
  }

  get frames(): number {
    return this.stamps.length;
  }

  /** @throws LurnError `clip-unreadable` when this browser cannot decode the file. */
  static async open(file: ClipFile): Promise<OpenClip> {
    const input = new Input({
      formats: ALL_FORMATS,
      source: new UrlSource(file.url, { getRetryDelay: (n) => (n < 4 ? 0.3 * 2 ** n : null) }),
    });
    const track = await input.getPrimaryVideoTrack();
    if (!track || !(await track.canDecode())) {
      input.dispose();
      throw new LurnError(
        'clip-unreadable',
        'This browser cannot decode the clip. Use a current Chromium or Chrome.',
      );
    }
    return new OpenClip(file, input, new VideoSampleSink(track), await track.getFirstTimestamp());
  }

  /** Decoded samples from a frame on, in presentation order, each with its frame number. */
  async *samplesFrom(frame: number) {
    const gap = frame + 1 < this.stamps.length ? this.stamps[frame + 1] - this.stamps[frame] : 0.01;
    for await (const sample of this.sink.samples(this.stamps[frame] + gap * 0.25)) {
      yield { frame: this.frameAt(sample.timestamp), sample };
    }
  }

  /** The frame whose time stamp is nearest. */
  frameAt(stamp: number): number {
    let [low, high] = [0, this.stamps.length - 1];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.stamps[middle] < stamp) low = middle + 1;
      else high = middle;
    }
    return low > 0 && stamp - this.stamps[low - 1] < this.stamps[low] - stamp ? low - 1 : low;
  }

  close(): void {
    this.input.dispose();
  }
}
