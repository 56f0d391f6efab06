import type { Format } from './format.js';
import type { ClipInfo } from '@lurn/model';
import { layoutFor } from '../layout.js';
import { takesAll } from './pictures.js';
import { KEPT_SOUND } from './sounds.js';

/** As they are. */
const ownPlanes = (info: ClipInfo) =>
  layoutFor(info, { depths: [8, 10, 12, 16], chroma: ['420', '422', '444'] });

/** FFV1 in Matroska (RFC 9043): lossless, each frame by itself and with a checksum: to keep. */
export const ffv1Mkv: Format = {
  ...{ id: 'ffv1-mkv', name: 'MKV, FFV1', use: 'Lossless, to keep', extension: 'mkv' },
  ...{
    depths: [8, 10, 12, 16],
    alpha: false,
    sound: KEPT_SOUND,
    plays: false,
    settings: [],
    encoder: 'ffv1',
  },
  planes: ownPlanes,
  video: (info) => [
    ...['-level', '3', '-g', '1', '-slices', '4', '-slicecrc', '1'],
    ...['-pix_fmt', ownPlanes(info).pixelFormat],
  ],
  muxer: 'matroska',
  upright: true,
  refuses: takesAll,
};
