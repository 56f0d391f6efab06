import { VideoSampleSink, type EncodedPacket, type InputVideoTrack, type VideoSample } from 'mediabunny';

/** What may lie decoded and not yet taken, in bytes; but never fewer pictures than the least, nor more than the most. */
const BUDGET = 64e6;
const [LEAST, MOST] = [4, 12];

/** What decodes for the library's sink, and how it is made: internal to it, as far as it is used here. */
interface Decoder {
  /** The browser's, where it decodes. */
  readonly decoder?: VideoDecoder | null;
  decode(packet: EncodedPacket): void;
  getDecodeQueueSize(): number;
  flush(): Promise<void>;
  close(): void;
}
interface Internals {
  _createDecoder(
    onSample: (sample: VideoSample) => void,
    onError: (error: unknown) => void,
  ): Promise<Decoder>;
}

/** So many pictures of a size are decoded ahead of the one that is taken. */
export function aheadOf(width: number, height: number): number {
  return Math.max(LEAST, Math.min(MOST, Math.floor(BUDGET / (1.5 * width * height))));
}

/**
 * Samples from a time on, few of them ahead. The library by itself gives the decoder 40 packets as long as nothing has
 * come out, and all of them come out whether or not anybody takes them: 500 MB of pictures of 3840 x 2160. Here packets
 * are held back, as they are coded, until there is room.
 *
 * @param start  seconds
 * @param most   samples that are decoded, or given to the decoder, and not yet taken; what the decoder itself holds back
 *               to put pictures into order does not count
 */
export async function* boundedSamples(
  track: InputVideoTrack,
  start: number,
  most: number,
): AsyncGenerator<VideoSample> {
  const sink = new VideoSampleSink(track);
  const bound = new Bound(most);
  const internals = sink as unknown as Partial<Internals>;
  const create = internals._createDecoder?.bind(sink);
  // Where the library is another than it was, it decodes as far ahead as it pleases.
  if (create) {
    internals._createDecoder = async (onSample, onError) => {
      const decoder = await create((sample) => {
        if (sample.timestamp >= start) bound.given();
        onSample(sample);
      }, onError);
      bound.hold(decoder, onError);
      return decoder;
    };
  }
  try {
    for await (const sample of sink.samples(start)) {
      if (sample.timestamp >= start) bound.taken();
      yield sample;
    }
  } finally {
    bound.drop();
  }
}

/** Holds packets back while enough of what came of those before lies about. */
class Bound {
  private readonly held: EncodedPacket[] = [];
  private waiting = 0;
  private feed: () => void = () => undefined;
  private onEmpty: () => void = () => undefined;

  constructor(private readonly most: number) {}

  given(): void {
    this.waiting++;
  }

  taken(): void {
    this.waiting--;
    this.feed();
  }

  /** Nobody takes any more: what is held back is not decoded, and who waits for that goes on. */
  drop(): void {
    this.held.length = 0;
    this.onEmpty();
  }

  /** Stands between the library and what decodes for it. */
  hold(decoder: Decoder, onError: (error: unknown) => void): void {
    const { held } = this;
    const decode = decoder.decode.bind(decoder);
    const flush = decoder.flush.bind(decoder);
    const close = decoder.close.bind(decoder);
    const size = decoder.getDecodeQueueSize.bind(decoder);
    this.feed = () => {
      try {
        while (held.length > 0 && size() + this.waiting < this.most) decode(held.shift()!);
      } catch (error) {
        held.length = 0;
        onError(error);
      }
      if (held.length === 0) this.onEmpty();
    };
    // It may ask for more before it gives anything.
    decoder.decoder?.addEventListener('dequeue', this.feed);
    decoder.decode = (packet) => {
      held.push(packet);
      this.feed();
    };
    decoder.getDecodeQueueSize = () => held.length + size();
    decoder.flush = async () => {
      if (held.length > 0) await new Promise<void>((resolve) => (this.onEmpty = resolve));
      await flush();
    };
    decoder.close = () => {
      this.drop();
      decoder.decoder?.removeEventListener('dequeue', this.feed);
      close();
    };
  }
}
