import type { Format } from './format.js';
import { plainPlanes, takesAll } from './pictures.js';
import { anySound } from './sounds.js';

/** FFV1 in Matroska (RFC 9043): lossless, each frame by itself and with a checksum: to keep. */
export const ffv1Mkv: Format = {
  ...{ id: 'ffv1-mkv', name: 'MKV, FFV1', use: 'Lossless, to keep', extension: 'mkv' },
  ...{ depths: [8], alpha: false, sound: true, plays: false, settings: [], encoder: 'ffv1' },
  planes: plainPlanes,
  video: () => ['-level', '3', '-g', '1', '-slices', '4', '-slicecrc', '1', '-pix_fmt', 'yuv420p'],
  audio: anySound,
  muxer: 'matroska',
  upright: true,
  refuses: takesAll,
};
