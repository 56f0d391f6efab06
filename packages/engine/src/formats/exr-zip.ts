import { writeExr } from '@lurn/core/formats';
import { lightTable } from '@lurn/core/picture';
import type { ClipInfo } from '@lurn/model';
import { layoutFor } from '../layout.js';
import type { Format } from './format.js';
import { pngZip } from './picture-zips.js';
import { deepRgb } from './pictures.js';

/** OpenEXR pictures of half precision: light of the scene, alpha beside it. Encoded as plain samples, and written by ourselves. */
export const exrZip: Format = {
  ...pngZip,
  ...{ id: 'exr-zip', name: 'OpenEXR pictures, zip', use: 'A picture a frame, in linear light' },
  ...{ depths: [16], encoder: 'rawvideo', pictures: 'raw' },
  planes: (info) => layoutFor(info, { depths: [16], chroma: ['420', '422', '444'], alpha: true }),
  video: () => ['-pix_fmt', 'rgba64le'],
  filters: deepRgb,
  finish: { extension: 'exr', picture: exrOf },
};

/** @param raw  red, green, blue and alpha of sixteen bits each */
function exrOf(raw: Uint8Array, width: number, height: number, info: ClipInfo): Uint8Array {
  const samples = new Uint16Array(raw.buffer, raw.byteOffset, raw.length / 2);
  const light = lightTable(info.colour.transfer);
  const n = width * height;
  const [R, G, B, A] = Array.from({ length: 4 }, () => new Float32Array(n));
  for (let i = 0, k = 0; i < n; i++, k += 4) {
    const alpha = samples[k + 3] / 65535;
    // OpenEXR has colours multiplied by how much they cover.
    R[i] = alpha * light[samples[k]];
    G[i] = alpha * light[samples[k + 1]];
    B[i] = alpha * light[samples[k + 2]];
    A[i] = alpha;
  }
  return writeExr({ width, height, channels: { R, G, B, A } }, 16);
}
