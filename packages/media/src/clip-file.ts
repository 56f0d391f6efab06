import { LurnError, stoppedError, type QuarterTurns } from '@lurn/core';
import {
  ALL_FORMATS,
  BufferSource,
  EncodedPacketSink,
  Input,
  UrlSource,
  VideoSampleSink,
  type VideoSample,
} from 'mediabunny';

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

export interface DecodedFrame {
  readonly frame: number;
  readonly sample: VideoSample;
}

const COPY_RATE = 25;
/** Frames from one key frame to the next in a copy in parts. */
const GROUP = 12;
/** How long to wait before a part that is not there yet is asked for again, in milliseconds. */
const ASK_AGAIN_MS = 400;

/** A part of a file, or all of it, open for decoding. */
interface Opened {
  readonly input: Input;
  readonly sink: VideoSampleSink;
  readonly packets: EncodedPacketSink;
  /** Time stamp of its first picture. */
  readonly first: number;
}

/** An open clip: where each frame is in the file or its parts, and a decoder for it. */
export class OpenClip {
  /** Turns of the pictures that the decoder gives. */
  readonly turns: QuarterTurns;
  /** Size of those pictures. */
  readonly codedWidth: number;
  readonly codedHeight: number;
  /** Parts on their way or open, the last few. */
  private readonly parts = new Map<number, Promise<Opened>>();
  private closed = false;

  private constructor(
    readonly file: ClipFile,
    private readonly whole: Opened | null,
  ) {
    this.turns = file.usesCopy ? 0 : file.turns;
    this.codedWidth = this.turns % 2 ? file.height : file.width;
    this.codedHeight = this.turns % 2 ? file.width : file.height;
  }

  get frames(): number {
    return this.file.times.length;
  }

  /** @throws LurnError `clip-unreadable` when this browser cannot decode the file. */
  static async open(file: ClipFile): Promise<OpenClip> {
    if (file.part) return new OpenClip(file, null);
    const source = new UrlSource(file.url, { getRetryDelay: (n) => (n < 4 ? 0.3 * 2 ** n : null) });
    return new OpenClip(file, await opened(new Input({ formats: ALL_FORMATS, source })));
  }

  /**
   * Decoded samples from a frame on, in presentation order, each with its frame number.
   *
   * @param gone       asked while a part that is not there yet is waited for: true gives it up
   * @param onWaiting  called when such a wait begins
   * @throws LurnError `stopped` when it was given up, `missing-file`, `offline`
   */
  async *samplesFrom(
    frame: number,
    gone: () => boolean = () => false,
    onWaiting: () => void = () => undefined,
  ): AsyncGenerator<DecodedFrame> {
    const { times, usesCopy, part } = this.file;
    if (!part) {
      const stamps = usesCopy ? times.map((_, i) => i / COPY_RATE) : times;
      yield* samples(this.whole!, stamps, frame);
      return;
    }
    /** Samples of a part, from a frame of it on. */
    const samplesOf = (open: Opened, k: number, from: number) => {
      const count = Math.min(part, this.frames - k * part);
      return samples(
        open,
        Float64Array.from({ length: count }, (_, i) => i / COPY_RATE),
        from,
      );
    };
    let next: Ahead | null = null;
    try {
      for (let k = Math.floor(frame / part); k * part < this.frames; k++) {
        // What has been begun ahead is gone on with.
        const ahead: Ahead | null = next;
        next = null;
        const begun = (await ahead?.begun) ?? null;
        const from = Math.max(0, frame - k * part);
        const all = begun?.all ?? samplesOf(await this.partThere(k, gone, onWaiting), k, from);
        let result = begun ? await begun.first : await all.next();
        try {
          for (; !result.done; result = await all.next()) {
            const { frame: i, sample } = result.value;
            yield { frame: k * part + i, sample };
            // The next part is fetched, and its decoder at work, before it is needed.
            if (!next && i >= part / 2 && (k + 1) * part < this.frames) {
              next = { begun: this.begin(k + 1, (open) => samplesOf(open, k + 1, 0)) };
            }
          }
        } finally {
          await all.return(undefined);
        }
      }
    } finally {
      void next?.begun.then((begun) => begun && leave(begun));
    }
  }

  /** Opens a part and has its first picture decoded; null where it is not there. */
  private async begin(k: number, samplesOf: (open: Opened) => Frames): Promise<Begun | null> {
    try {
      const all = samplesOf(await this.part(k));
      const first = all.next();
      first.catch(() => undefined);
      return { all, first };
    } catch {
      return null;
    }
  }

  /** The frame at which decoding has to begin to come to a frame; the frame itself where that cannot be told. */
  async startFor(frame: number): Promise<number> {
    const { times, usesCopy, part } = this.file;
    if (part) return frame - ((frame % part) % GROUP);
    const { packets, first } = this.whole!;
    const stamp = first + (usesCopy ? frame / COPY_RATE : times[frame]);
    const key = await packets.getKeyPacket(stamp + 1e-4, { metadataOnly: true });
    return key
      ? nearest(usesCopy ? times.map((_, i) => i / COPY_RATE) : times, key.timestamp - first)
      : frame;
  }

  /** A part, when it is there. */
  private async partThere(k: number, gone: () => boolean, onWaiting: () => void): Promise<Opened> {
    let waiting = false;
    for (;;) {
      try {
        return await this.part(k);
      } catch (error) {
        if (!(error instanceof LurnError && error.code === 'not-read-yet')) throw error;
      }
      if (gone()) throw stoppedError('Waiting for the frame');
      if (!waiting) onWaiting();
      waiting = true;
      await new Promise((resume) => setTimeout(resume, ASK_AGAIN_MS));
      if (gone() || this.closed) throw stoppedError('Waiting for the frame');
    }
  }

  private part(k: number): Promise<Opened> {
    const known = this.parts.get(k);
    if (known) return known;
    const opening = fetchPart(`${this.file.url}/${k}`);
    this.parts.set(k, opening);
    for (const [old, part] of this.parts) {
      if (this.parts.size <= KEPT_PARTS) break;
      this.parts.delete(old);
      part.then(({ input }) => input.dispose()).catch(() => undefined);
    }
    opening.catch(() => this.parts.get(k) === opening && this.parts.delete(k));
    return opening;
  }

  close(): void {
    this.closed = true;
    this.whole?.input.dispose();
    for (const part of this.parts.values()) part.then(({ input }) => input.dispose()).catch(() => undefined);
    this.parts.clear();
  }
}

type Frames = AsyncGenerator<DecodedFrame>;

/** A part whose first picture is being decoded. */
interface Begun {
  readonly all: Frames;
  readonly first: Promise<IteratorResult<DecodedFrame>>;
}

interface Ahead {
  readonly begun: Promise<Begun | null>;
}

/** Gives up what was begun and is not wanted any more. */
async function leave({ all, first }: Begun): Promise<void> {
  const result = await first.catch(() => null);
  if (result && !result.done) result.value.sample.close();
  await all.return(undefined).catch(() => undefined);
}

/** Parts that stay open: the one that is read, those round it, and one that was looked at before. */
const KEPT_PARTS = 4;

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
    sink: new VideoSampleSink(track),
    packets: new EncodedPacketSink(track),
    first: await track.getFirstTimestamp(),
  };
}

async function fetchPart(url: string): Promise<Opened> {
  const response = await fetch(url).catch(() => {
    throw new LurnError('offline', 'The server does not answer. Is it still running?');
  });
  if (!response.ok) {
    const told = (await response.json().catch(() => null)) as { code?: string; message?: string } | null;
    throw new LurnError(told?.code ?? 'fault', told?.message ?? `The server answered ${response.status}.`);
  }
  const source = new BufferSource(await response.arrayBuffer());
  return opened(new Input({ formats: ALL_FORMATS, source }));
}

/** Samples from a frame on. @param stamps  seconds of each frame after the first */
async function* samples(
  { sink, first }: Opened,
  stamps: Float64Array,
  frame: number,
): AsyncGenerator<DecodedFrame> {
  const gap = frame + 1 < stamps.length ? stamps[frame + 1] - stamps[frame] : 0.01;
  for await (const sample of sink.samples(first + stamps[frame] + gap * 0.25)) {
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
