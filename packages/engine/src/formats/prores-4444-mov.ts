import type { Format } from './format.js';
import { layoutFor } from '../layout.js';
import { steadyRateOnly } from './pictures.js';
import { WHOLE_SOUND } from './sounds.js';

/** ProRes 4444 in QuickTime: the master format of the trade that carries alpha, and that every editing program reads. */
export const prores4444Mov: Format = {
  ...{ id: 'prores-4444-mov', name: 'MOV, ProRes 4444 + alpha', use: 'With transparency', extension: 'mov' },
  ...{ depths: [10], alpha: true, sound: WHOLE_SOUND, plays: false, settings: [], encoder: 'prores_ks' },
  planes: (info) => layoutFor(info, { depths: [8, 10], chroma: ['420', '422', '444'], alpha: true }),
  video: () => ['-profile:v', '4444', '-pix_fmt', 'yuva444p10le', '-alpha_bits', '16'],
  muxer: 'mov',
  muxing: ['-movflags', '+write_colr'],
  tagsPictures: true,
  refuses: steadyRateOnly('Transparency'),
};
