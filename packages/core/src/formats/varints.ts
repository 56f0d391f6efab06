/** Whole numbers in as few bytes as they need: seven bits a byte, the lowest first (base 128 varints, Protocol Buffers). */

/** More bytes than any number takes. */
export const LONGEST_VARINT = 10;
/** What is below takes the quick way, in 32-bit integers. */
const SMALL = 2 ** 28;

/** A signed number as one that is 0 or more: 0, -1, 1, -2 as 0, 1, 2, 3. */
export const zigzag = (value: number): number => (value < 0 ? -2 * value - 1 : 2 * value);
export const signed = (code: number): number => (code % 2 ? -(code + 1) / 2 : code / 2);

export class VarintWriter {
  private at = 0;
  private readonly bytes: Uint8Array<ArrayBuffer>;

  /** @param room  bytes, at the most */
  constructor(room: number) {
    this.bytes = new Uint8Array(room);
  }

  /** @param value  whole, 0 or more */
  whole(value: number): void {
    const { bytes } = this;
    let rest = value;
    for (; rest >= SMALL; rest = Math.floor(rest / 128)) bytes[this.at++] = (rest % 128) | 128;
    for (; rest > 127; rest >>>= 7) bytes[this.at++] = (rest & 127) | 128;
    bytes[this.at++] = rest;
  }

  raw(bytes: Uint8Array): void {
    this.bytes.set(bytes, this.at);
    this.at += bytes.length;
  }

  written(): Uint8Array<ArrayBuffer> {
    return this.bytes.slice(0, this.at);
  }
}

export class VarintReader {
  private at = 0;

  /** @param bad  makes the error of what cannot be read */
  constructor(
    private readonly bytes: Uint8Array,
    private readonly bad: (why: string) => Error,
  ) {}

  whole(): number {
    let byte = this.byte();
    if (byte < 128) return byte;
    let value = byte & 127;
    for (let unit = 128; ; unit *= 128) {
      if (unit > Number.MAX_SAFE_INTEGER / 128) throw this.bad('a number is too large');
      byte = this.byte();
      value += (byte & 127) * unit;
      if (byte < 128) return value;
    }
  }

  raw(length: number): Uint8Array {
    if (this.at + length > this.bytes.length) throw this.bad('they end too early');
    this.at += length;
    return this.bytes.subarray(this.at - length, this.at);
  }

  /** Demands that everything has been read. */
  end(): void {
    if (this.at !== this.bytes.length) throw this.bad('more follows than they have');
  }

  private byte(): number {
    if (this.at >= this.bytes.length) throw this.bad('they end too early');
    return this.bytes[this.at++];
  }
}
