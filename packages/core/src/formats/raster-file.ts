import { LurnError } from '../errors.js';
import { innerOf, type Raster } from '../compose/raster.js';

/** Words before the samples: size, and what of it the corners stand for. */
const HEAD = 6;

/** A raster as it goes from server to page: six numbers of 32 bits (little-endian), then its samples. */
export function packRaster(raster: Raster): Uint8Array<ArrayBuffer> {
  const { left, top, width, height } = innerOf(raster);
  const bytes = new Uint8Array(4 * HEAD + raster.data.length);
  const head = new DataView(bytes.buffer);
  [raster.width, raster.height, left, top, width, height].forEach((v, i) => head.setInt32(4 * i, v, true));
  bytes.set(raster.data, 4 * HEAD);
  return bytes;
}

/** @throws LurnError `bad-picture` when there are too few samples for its size */
export function unpackRaster(bytes: Uint8Array): Raster {
  const cut = () => new LurnError('bad-picture', 'A graphic arrived cut off. Try again.');
  if (bytes.length < 4 * HEAD) throw cut();
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  const [width, height, left, top, w, h] = Array.from({ length: HEAD }, (_, i) => view.getInt32(4 * i, true));
  if (bytes.length !== 4 * (HEAD + width * height)) throw cut();
  return { width, height, data: bytes.subarray(4 * HEAD), inner: { left, top, width: w, height: h } };
}
