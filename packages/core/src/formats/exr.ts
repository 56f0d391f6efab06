import { unzlibSync } from 'fflate';
import { LurnError } from '../errors.js';
import { packHere, type Pack } from './packing.js';

/** Samples of one picture, row by row, a plane a channel. */
export interface FloatPicture {
  readonly width: number;
  readonly height: number;
  readonly channels: Readonly<Record<string, Float32Array>>;
}

const MAGIC = 20000630;
const [HALF, FLOAT] = [1, 2];
/** Rows that are packed together with this compression (ZIP). */
const [ZIP, ROWS] = [3, 16];

/**
 * Writes an OpenEXR picture of 16 or 32 bits a sample (OpenEXR 2.0 file layout): scan lines, ZIP. Cost: some twenty
 * operations a sample and the packing.
 */
export function writeExr(picture: FloatPicture, bits: 16 | 32): Uint8Array {
  const lines = linesOf(picture, bits);
  return joined(picture, bits, lines, lines.map(packHere));
}

/** {@link writeExr}, packed by something else. */
export async function writeExrBy(pack: Pack, picture: FloatPicture, bits: 16 | 32): Promise<Uint8Array> {
  const lines = linesOf(picture, bits);
  return joined(picture, bits, lines, await Promise.all(lines.map(pack)));
}

/** Its rows as they are packed, some together. */
function linesOf({ width, height, channels }: FloatPicture, bits: 16 | 32): Uint8Array[] {
  const names = Object.keys(channels).sort();
  const size = bits / 8;
  const lines: Uint8Array[] = [];
  for (let y = 0; y < height; y += ROWS) {
    const rows = Math.min(ROWS, height - y);
    const raw = new Uint8Array(rows * width * names.length * size);
    const view = new DataView(raw.buffer);
    let at = 0;
    for (let row = y; row < y + rows; row++)
      for (const name of names) {
        const plane = channels[name];
        const line = plane.subarray(row * width, (row + 1) * width);
        if (bits === 32) raw.set(new Uint8Array(line.buffer, line.byteOffset, line.byteLength), at);
        else for (let k = 0; k < width; k++) view.setUint16(at + 2 * k, toHalf(line[k]), true);
        at += size * width;
      }
    lines.push(foretold(raw));
  }
  return lines;
}

function joined(
  { width, height, channels }: FloatPicture,
  bits: 16 | 32,
  lines: readonly Uint8Array[],
  packed: readonly Uint8Array[],
): Uint8Array {
  const names = Object.keys(channels).sort();
  const out = new Bytes();
  out.u32(MAGIC).u32(2);
  const list = new Bytes();
  for (const name of names)
    list.text(name).u32(bits === 16 ? HALF : FLOAT).u32(0).u32(1).u32(1); // prettier-ignore
  list.u8(0);
  out.attribute('channels', 'chlist', list.all());
  out.attribute('compression', 'compression', Uint8Array.of(ZIP));
  const box = new Bytes().u32(0).u32(0).u32(width - 1).u32(height - 1).all(); // prettier-ignore
  out.attribute('dataWindow', 'box2i', box);
  out.attribute('displayWindow', 'box2i', box);
  out.attribute('lineOrder', 'lineOrder', Uint8Array.of(0));
  out.attribute('pixelAspectRatio', 'float', new Bytes().f32(1).all());
  out.attribute('screenWindowCenter', 'v2f', new Bytes().f32(0).f32(0).all());
  out.attribute('screenWindowWidth', 'float', new Bytes().f32(1).all());
  out.u8(0);
  const chunks = lines.map((line, i) => {
    // What does not pack is kept as it was.
    const body = packed[i].length < line.length ? packed[i] : untold(line);
    return new Bytes()
      .u32(i * ROWS)
      .u32(body.length)
      .raw(body)
      .all();
  });
  let offset = out.length + 8 * chunks.length;
  for (const chunk of chunks) {
    out.u32(offset >>> 0).u32(Math.floor(offset / 2 ** 32));
    offset += chunk.length;
  }
  for (const chunk of chunks) out.raw(chunk);
  return out.all();
}

/**
 * Reads an OpenEXR picture of scan lines, unpacked or ZIP.
 *
 * @throws LurnError `bad-exr` that says what is not as it should be
 */
export function readExr(bytes: Uint8Array): FloatPicture {
  const bad = (why: string) => new LurnError('bad-exr', `The EXR picture cannot be read: ${why}.`);
  try {
    return readScanLines(bytes, bad);
  } catch (error) {
    if (error instanceof LurnError) throw error;
    throw bad('it is cut off or broken');
  }
}

function readScanLines(bytes: Uint8Array, bad: (why: string) => LurnError): FloatPicture {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const u32 = (at: number) => view.getUint32(at, true);
  if (bytes.length < 8 || u32(0) !== MAGIC) throw bad('it is no EXR file');
  if (u32(4) & 0x1a00) throw bad('it is tiled, deep or of several parts; scan lines of one part are read');
  let at = 8;
  const text = () => {
    const from = at;
    while (view.getUint8(at) !== 0) at++;
    return String.fromCharCode(...bytes.subarray(from, at++));
  };
  const channels: { name: string; type: number }[] = [];
  let [compression, width, height, top] = [0, 0, 0, 0];
  for (let name = text(); name; name = text()) {
    text();
    const [size, from] = [u32(at), at + 4];
    if (name === 'compression') compression = bytes[from];
    if (name === 'dataWindow') {
      top = view.getInt32(from + 4, true);
      width = view.getInt32(from + 8, true) - view.getInt32(from, true) + 1;
      height = view.getInt32(from + 12, true) - top + 1;
    }
    if (name === 'channels')
      for (at = from; bytes[at] !== 0; at += 16) {
        const channel = text();
        channels.push({ name: channel, type: u32(at) });
      }
    at = from + size;
  }
  const rows = { 0: 1, 2: 1, 3: ROWS }[compression];
  if (!rows) throw bad('its compression is none of: none, ZIP');
  if (!(width > 0 && height > 0 && width * height <= 2 ** 28)) throw bad(`its size is ${width} x ${height}`);
  if (channels.length === 0 || channels.some((c) => c.type !== HALF && c.type !== FLOAT))
    throw bad('its channels are not of half or float numbers');
  const out = Object.fromEntries(channels.map((c) => [c.name, new Float32Array(width * height)]));
  const line = width * channels.reduce((sum, c) => sum + (c.type === HALF ? 2 : 4), 0);
  for (let chunk = 0; chunk * rows < height; chunk++) {
    const from = u32(at + 8 * chunk) + 2 ** 32 * u32(at + 8 * chunk + 4);
    const first = view.getInt32(from, true) - top;
    const body = bytes.subarray(from + 8, from + 8 + u32(from + 4));
    const count = Math.min(rows, height - first);
    const raw = body.length === count * line ? body : untold(unzlibSync(body));
    if (raw.length !== count * line) throw bad('a scan line is cut off');
    const samples = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
    let p = 0;
    for (let y = first; y < first + count; y++)
      for (const { name, type } of channels) {
        const plane = out[name];
        for (let k = y * width; k < (y + 1) * width; k++, p += type === HALF ? 2 : 4)
          plane[k] = type === HALF ? fromHalf(samples.getUint16(p, true)) : samples.getFloat32(p, true);
      }
  }
  return { width, height, channels: out };
}

/** Bytes apart by even and odd, each told by how it differs from the one before: what packs better. */
function foretold(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length);
  const half = (raw.length + 1) >> 1;
  let before = 0;
  for (let k = 0; k < half; k++) {
    const now = raw[2 * k];
    out[k] = now - before + 128;
    before = now;
  }
  for (let k = half, from = 1; k < out.length; k++, from += 2) {
    const now = raw[from];
    out[k] = now - before + 128;
    before = now;
  }
  out[0] = raw[0];
  return out;
}

function untold(packed: Uint8Array): Uint8Array {
  for (let k = 1; k < packed.length; k++) packed[k] = packed[k - 1] + packed[k] - 128;
  const out = new Uint8Array(packed.length);
  const half = (packed.length + 1) >> 1;
  for (let k = 0; k < out.length; k++) out[k] = packed[(k & 1 ? half : 0) + (k >> 1)];
  return out;
}

const [SINGLE, BITS] = (() => {
  const single = new Float32Array(1);
  return [single, new Uint32Array(single.buffer)];
})();

/** A number as half precision (IEEE 754-2019, binary16), rounded to the nearest. */
export function toHalf(value: number): number {
  SINGLE[0] = value;
  const bits = BITS[0];
  const sign = (bits >>> 16) & 0x8000;
  const exponent = ((bits >>> 23) & 0xff) - 112;
  const fraction = bits & 0x7fffff;
  if (exponent >= 31) return sign | 0x7c00 | ((bits & 0x7fffffff) > 0x7f800000 ? 0x200 : 0);
  if (exponent <= 0) {
    if (exponent < -10) return sign;
    const shift = 14 - exponent;
    const full = fraction | 0x800000;
    const kept = full >>> shift;
    const rest = full & ((1 << shift) - 1);
    const middle = 1 << (shift - 1);
    return sign | (kept + (rest > middle || (rest === middle && kept & 1) ? 1 : 0));
  }
  const kept = (exponent << 10) | (fraction >>> 13);
  const rest = fraction & 0x1fff;
  // Carries go over into the exponent, as they should.
  return sign | (kept + (rest > 0x1000 || (rest === 0x1000 && kept & 1) ? 1 : 0));
}

export function fromHalf(half: number): number {
  const sign = half & 0x8000 ? -1 : 1;
  const exponent = (half >> 10) & 31;
  const fraction = half & 0x3ff;
  if (exponent === 0) return sign * fraction * 2 ** -24;
  if (exponent === 31) return fraction ? NaN : sign * Infinity;
  return sign * (1 + fraction / 1024) * 2 ** (exponent - 15);
}

/** Little-endian bytes, one after the other. */
class Bytes {
  private readonly parts: Uint8Array[] = [];
  length = 0;

  raw(bytes: Uint8Array): this {
    this.parts.push(bytes);
    this.length += bytes.length;
    return this;
  }

  u8(v: number): this {
    return this.raw(Uint8Array.of(v));
  }

  u32(v: number): this {
    return this.raw(new Uint8Array(new Uint32Array([v]).buffer));
  }

  f32(v: number): this {
    return this.raw(new Uint8Array(new Float32Array([v]).buffer));
  }

  text(text: string): this {
    return this.raw(Uint8Array.from([...text].map((c) => c.charCodeAt(0)))).u8(0);
  }

  attribute(name: string, type: string, value: Uint8Array): this {
    return this.text(name).text(type).u32(value.length).raw(value);
  }

  all(): Uint8Array {
    const out = new Uint8Array(this.length);
    let at = 0;
    for (const part of this.parts) {
      out.set(part, at);
      at += part.length;
    }
    return out;
  }
}
