/**
 * Raw pictures with their own time stamps, as a Matroska stream that ffmpeg reads from a pipe: what a plain raw
 * stream cannot carry when the frame rate varies (RFC 9559; the elements used are few and of known size).
 */

/** Nanoseconds a tick. Stamps are exact to a microsecond. */
const TICK_NS = 1000;

/**
 * @param seconds  how long a picture lasts on average: without it the last one would last no time at all, and
 *                 players leave it out
 */
export function matroskaHeader(width: number, height: number, seconds: number, fourcc = 'I420'): Buffer {
  const ebml = element(0x1a45dfa3, [
    unsigned(0x4286, 1),
    unsigned(0x42f7, 1),
    unsigned(0x42f2, 4),
    unsigned(0x42f3, 8),
    text(0x4282, 'matroska'),
    unsigned(0x4287, 4),
    unsigned(0x4285, 2),
  ]);
  const info = element(0x1549a966, [unsigned(0x2ad7b1, TICK_NS), text(0x4d80, 'lurn'), text(0x5741, 'lurn')]);
  const video = element(0xe0, [unsigned(0xb0, width), unsigned(0xba, height), text(0x2eb524, fourcc)]);
  const entry = element(0xae, [
    unsigned(0xd7, 1),
    unsigned(0x73c5, 1),
    unsigned(0x83, 1),
    unsigned(0x23e383, Math.round(seconds * 1e9)),
    text(0x86, 'V_UNCOMPRESSED'),
    video,
  ]);
  const tracks = element(0x1654ae6b, [entry]);
  const segment = Buffer.concat([idBytes(0x18538067), UNKNOWN_SIZE]);
  return Buffer.concat([ebml, segment, info, tracks]);
}

/** What goes before one picture's bytes: a cluster of its own, stamped in seconds. */
export function matroskaFrameHead(seconds: number, bytes: number): Buffer {
  const stamp = unsigned(0xe7, Math.round((seconds * 1e9) / TICK_NS));
  // Track 1, no offset from the cluster's stamp, a key frame.
  const blockHead = Buffer.from([0x81, 0, 0, 0x80]);
  const block = Buffer.concat([idBytes(0xa3), sizeBytes(blockHead.length + bytes), blockHead]);
  return Buffer.concat([idBytes(0x1f43b675), sizeBytes(stamp.length + block.length + bytes), stamp, block]);
}

const UNKNOWN_SIZE = Buffer.from([0x01, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff]);

function element(id: number, children: readonly Buffer[]): Buffer {
  const body = Buffer.concat(children);
  return Buffer.concat([idBytes(id), sizeBytes(body.length), body]);
}

function unsigned(id: number, value: number): Buffer {
  const body = Buffer.alloc(8);
  body.writeBigUInt64BE(BigInt(value));
  return Buffer.concat([idBytes(id), sizeBytes(8), body]);
}

function text(id: number, value: string): Buffer {
  const body = Buffer.from(value, 'latin1');
  return Buffer.concat([idBytes(id), sizeBytes(body.length), body]);
}

function idBytes(id: number): Buffer {
  const hex = id.toString(16);
  return Buffer.from(hex.length % 2 ? `0${hex}` : hex, 'hex');
}

/** A size in eight bytes: the marker bit, then 56 bits. */
function sizeBytes(size: number): Buffer {
  const body = Buffer.alloc(8);
  body.writeBigUInt64BE((1n << 56n) | BigInt(size));
  return body;
}
