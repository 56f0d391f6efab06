import type { Readable } from 'node:stream';

/** Cuts a byte stream into frames of a fixed size. */
export class FrameStream {
  private readonly iterator: AsyncIterator<Buffer>;
  private rest: Buffer = Buffer.alloc(0);

  constructor(
    stream: Readable,
    readonly frameSize: number,
  ) {
    this.iterator = stream[Symbol.asyncIterator]() as AsyncIterator<Buffer>;
  }

  /** Fills `into` with the next frame; false at the end. A last frame that is cut short does not count. */
  async read(into: Uint8Array): Promise<boolean> {
    let filled = 0;
    while (filled < this.frameSize) {
      if (this.rest.length === 0) {
        const next = await this.iterator.next();
        if (next.done) return false;
        this.rest = next.value;
      }
      const take = Math.min(this.rest.length, this.frameSize - filled);
      into.set(this.rest.subarray(0, take), filled);
      this.rest = this.rest.subarray(take);
      filled += take;
    }
    return true;
  }
}
