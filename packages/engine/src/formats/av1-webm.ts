import type { Format } from './format.js';
import { layoutFor } from '../layout.js';
import { deepened, takesAll } from './pictures.js';
import { WEBM_SOUND } from './sounds.js';

/** SVT-AV1 looks alike at about so much more. */
const ON_ITS_SCALE = 10;

/** AV1 in WebM, by SVT: the library of the format's makers takes minutes for a second, and is not used. */
export const av1Webm: Format = {
  ...{ id: 'av1-webm', name: 'WebM, AV1', use: 'For a page, small', extension: 'webm' },
  ...{
    depths: [8, 10],
    alpha: false,
    sound: WEBM_SOUND,
    plays: true,
    settings: ['crf'],
    encoder: 'libsvtav1',
  },
  planes: (info) => layoutFor(info, { depths: [8, 10], chroma: ['420'] }),
  video: (info, { crf }) => [
    '-crf',
    String(Math.min(63, crf + ON_ITS_SCALE)),
    '-preset',
    '8',
    '-pix_fmt',
    deepened(info, 'yuv420p', 'yuv420p10le'),
  ],
  muxer: 'webm',
  upright: true,
  refuses: takesAll,
};
