import { packHere, type Pack } from './packing.js';

/** Red, green and blue of every pixel, row by row. */
export interface DeepPicture {
  readonly width: number;
  readonly height: number;
  readonly data: Uint16Array;
}

const SIGNATURE = Uint8Array.of(137, 80, 78, 71, 13, 10, 26, 10);
const PER_PIXEL = 6;
/** Rows are told by how they differ from the one above (PNG, second edition, 9.2): ramps pack to little. */
const UP = 2;

/**
 * Writes a PNG of 16 bits a sample. The package that reads them here writes rows as they are, which makes maps ten times as
 * large, and packs by itself alone. Cost: a few operations a byte, and the packing.
 */
export function writePng(picture: DeepPicture): Uint8Array {
  return aroundPacked(picture, packHere(filtered(picture)));
}

/** {@link writePng}, packed by something else. */
export async function writePngBy(pack: Pack, picture: DeepPicture): Promise<Uint8Array> {
  return aroundPacked(picture, await pack(filtered(picture)));
}

function filtered({ width, height, data }: DeepPicture): Uint8Array {
  const line = PER_PIXEL * width;
  const bytes = new Uint8Array(line * height);
  for (let k = 0; k < data.length; k++) {
    bytes[2 * k] = data[k] >> 8;
    bytes[2 * k + 1] = data[k];
  }
  const out = new Uint8Array((line + 1) * height);
  for (let y = 0, to = 0; y < height; y++) {
    out[to++] = UP;
    const from = y * line;
    if (y === 0) out.set(bytes.subarray(0, line), to);
    else for (let k = 0; k < line; k++) out[to + k] = bytes[from + k] - bytes[from + k - line];
    to += line;
  }
  return out;
}

function aroundPacked({ width, height }: DeepPicture, packed: Uint8Array): Uint8Array {
  const header = new Uint8Array(13);
  const view = new DataView(header.buffer);
  view.setUint32(0, width);
  view.setUint32(4, height);
  // 16 bits, red, green and blue; packed and filtered as there is only one way to, not interlaced.
  header.set([16, 2, 0, 0, 0], 8);
  const parts = [SIGNATURE, chunk('IHDR', header), chunk('IDAT', packed), chunk('IEND', new Uint8Array(0))];
  const out = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

function chunk(type: string, content: Uint8Array): Uint8Array {
  const out = new Uint8Array(content.length + 12);
  const view = new DataView(out.buffer);
  view.setUint32(0, content.length);
  for (let k = 0; k < 4; k++) out[4 + k] = type.charCodeAt(k);
  out.set(content, 8);
  view.setUint32(out.length - 4, crc(out.subarray(4, -4)));
  return out;
}

const TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});

/** The cyclic redundancy check of a chunk (PNG, annex D). */
function crc(bytes: Uint8Array): number {
  let c = 0xffffffff;
  for (const byte of bytes) c = TABLE[(c ^ byte) & 255] ^ (c >>> 8);
  return ~c >>> 0;
}
