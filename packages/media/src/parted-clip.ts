import { LurnError, stoppedError } from '@lurn/core';
import {
  ALL_FORMATS,
  BufferSource,
  EncodedPacketSink,
  Input,
  VideoSample,
  type EncodedPacket,
} from 'mediabunny';
import type { DecodedFrame } from './decoded-frame.js';

/** How long to wait before a part that is not there yet is asked for again, in milliseconds. */
const ASK_AGAIN_MS = 400;
/** Parts that are kept: the one that is read, those round it, and one that was looked at before. */
const KEPT_PARTS = 4;
/** Time stamps that are given to pictures, in microseconds a frame: they come back with them, and mean nothing else. */
const STAMP = 40_000;

/** A part of a copy: its pictures as they are coded, in their order; none refers to a later one. */
interface Part {
  readonly config: VideoDecoderConfig;
  readonly packets: readonly EncodedPacket[];
}

/**
 * A copy of a clip that lies in parts of so many frames each, some of which may not be there yet. One decoder goes
 * through part after part, without a stop between them.
 */
export class PartedClip {
  private readonly parts = new Map<number, Promise<Part>>();
  private readonly there = new Map<number, Part>();
  private closed = false;

  /**
   * @param url   place below which the parts lie, by their numbers
   * @param part  frames of each
   * @param most  pictures that are decoded, or given to the decoder, and not yet taken
   */
  constructor(
    private readonly url: string,
    private readonly frames: number,
    private readonly part: number,
    private readonly most: number,
  ) {}

  /** The frame at which decoding has to begin to come to a frame: of a part that is not there, its first. */
  startFor(frame: number): number {
    const first = frame - (frame % this.part);
    const part = this.there.get(first / this.part);
    return first + (part ? keyBefore(part, frame - first) : 0);
  }

  /** Decoded samples from a frame on: see {@link PictureClip.picturesFrom}. */
  async *samplesFrom(
    frame: number,
    gone: () => boolean,
    onWaiting: () => void,
  ): AsyncGenerator<DecodedFrame> {
    const out: VideoFrame[] = [];
    let fault: Error | null = null;
    let wake: () => void = () => undefined;
    const decoder = new VideoDecoder({
      output: (picture) => {
        out.push(picture);
        wake();
      },
      error: (error) => {
        fault = error;
        wake();
      },
    });
    // It may ask for more before it gives anything.
    decoder.ondequeue = () => wake();
    let k = Math.floor(frame / this.part);
    /** The packet of the present part that is next; null until it is known where decoding begins. */
    let i: number | null = null;
    let current: Part | null = null;
    let description = '';
    try {
      for (;;) {
        while (out.length + decoder.decodeQueueSize < this.most && k * this.part < this.frames) {
          current ??= this.there.get(k) ?? null;
          if (!current) break;
          const told = JSON.stringify([current.config.codec, ...bytesOf(current.config.description)]);
          if (told !== description) decoder.configure(current.config);
          description = told;
          i ??= keyBefore(current, frame - k * this.part);
          const packet = current.packets[i];
          if (packet) decoder.decode(chunkOf(packet, k * this.part + i));
          if (i >= this.part / 2) this.fetch(k + 1).catch(() => undefined);
          if (++i < this.part) continue;
          [k, i, current] = [k + 1, 0, null];
        }
        const picture = out.shift();
        if (picture) {
          const at = Math.round(picture.timestamp / STAMP);
          if (at < frame) picture.close();
          else yield { frame: at, sample: new VideoSample(picture) };
          continue;
        }
        if (fault) throw new LurnError('frame-unreadable', `The copy cannot be decoded: ${String(fault)}`);
        const starved = !current && !this.there.has(k);
        if (starved || k * this.part >= this.frames) {
          // Nothing more is to be had for now: what the decoder holds back comes out.
          if (decoder.state === 'configured') await decoder.flush();
          if (out.length > 0) continue;
          if (k * this.part >= this.frames) return;
          await this.partThere(k, gone, onWaiting);
          continue;
        }
        await new Promise<void>((resume) => (wake = resume));
      }
    } finally {
      if (decoder.state !== 'closed') decoder.close();
      for (const picture of out) picture.close();
    }
  }

  close(): void {
    this.closed = true;
    this.parts.clear();
    this.there.clear();
  }

  /** Waits for a part. */
  private async partThere(k: number, gone: () => boolean, onWaiting: () => void): Promise<void> {
    for (let waiting = false; ; waiting = true) {
      try {
        await this.fetch(k);
        return;
      } catch (error) {
        if (!(error instanceof LurnError && error.code === 'not-read-yet')) throw error;
      }
      if (gone() || this.closed) throw stoppedError('Waiting for the frame');
      if (!waiting) onWaiting();
      await new Promise((resume) => setTimeout(resume, ASK_AGAIN_MS));
      if (gone() || this.closed) throw stoppedError('Waiting for the frame');
    }
  }

  private fetch(k: number): Promise<Part> {
    const known = this.parts.get(k);
    if (known) return known;
    if (k * this.part >= this.frames)
      return Promise.reject(new LurnError('no-such-frame', 'This is the end.'));
    const fetching = fetchPart(`${this.url}/${k}`);
    this.parts.set(k, fetching);
    for (const old of this.parts.keys()) {
      if (this.parts.size <= KEPT_PARTS) break;
      this.parts.delete(old);
      this.there.delete(old);
    }
    fetching.then(
      (part) => this.parts.get(k) === fetching && this.there.set(k, part),
      () => this.parts.get(k) === fetching && this.parts.delete(k),
    );
    return fetching;
  }
}

async function fetchPart(url: string): Promise<Part> {
  const response = await fetch(url).catch(() => {
    throw new LurnError('offline', 'The server does not answer. Is it still running?');
  });
  if (!response.ok) {
    const told = (await response.json().catch(() => null)) as { code?: string; message?: string } | null;
    throw new LurnError(told?.code ?? 'fault', told?.message ?? `The server answered ${response.status}.`);
  }
  const input = new Input({ formats: ALL_FORMATS, source: new BufferSource(await response.arrayBuffer()) });
  try {
    const track = await input.getPrimaryVideoTrack();
    const config = await track?.getDecoderConfig();
    if (!track || !config || !(await decodes(config))) {
      throw new LurnError(
        'clip-unreadable',
        'This browser cannot decode the clip. Use a current Chromium or Chrome.',
      );
    }
    const packets: EncodedPacket[] = [];
    for await (const packet of new EncodedPacketSink(track).packets()) packets.push(packet);
    return { config, packets };
  } finally {
    input.dispose();
  }
}

/** The last key frame of a part at or before a place in it. */
function keyBefore({ packets }: Part, place: number): number {
  let key = Math.min(place, packets.length - 1);
  while (key > 0 && packets[key].type !== 'key') key--;
  return Math.max(0, key);
}

const decodable = new Map<string, Promise<boolean>>();

/** Whether the browser decodes such a stream; to ask takes it a while. */
function decodes(config: VideoDecoderConfig): Promise<boolean> {
  let known = decodable.get(config.codec);
  if (!known) {
    known = VideoDecoder.isConfigSupported(config).then(({ supported }) => supported === true);
    decodable.set(config.codec, known);
  }
  return known;
}

const chunkOf = ({ type, data }: EncodedPacket, frame: number): EncodedVideoChunk =>
  new EncodedVideoChunk({ type, data, timestamp: frame * STAMP, duration: STAMP });

function bytesOf(description: AllowSharedBufferSource | undefined): Uint8Array {
  if (!description) return new Uint8Array(0);
  if (ArrayBuffer.isView(description)) {
    const { buffer, byteOffset, byteLength } = description;
    return new Uint8Array(buffer, byteOffset, byteLength);
  }
  return new Uint8Array(description);
}
