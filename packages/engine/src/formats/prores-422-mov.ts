import type { Format } from './format.js';
import { layoutFor } from '../layout.js';
import { takesAll } from './pictures.js';
import { WHOLE_SOUND } from './sounds.js';

const prores422 = (id: string, name: string, use: string, profile: string): Format => ({
  ...{ id, name, use, extension: 'mov' },
  ...{ depths: [10], alpha: false, sound: WHOLE_SOUND, plays: false, settings: [], encoder: 'prores_ks' },
  planes: (info) => layoutFor(info, { depths: [8, 10], chroma: ['420', '422'] }),
  video: () => ['-profile:v', profile, '-pix_fmt', 'yuv422p10le'],
  muxer: 'mov',
  muxing: ['-movflags', '+write_colr'],
  tagsPictures: true,
  refuses: takesAll,
});

/** ProRes 422 in QuickTime: what editing programs cut without effort. */
export const prores422Mov = prores422('prores-422-mov', 'MOV, ProRes 422', 'To cut with', 'standard');
export const prores422HqMov = prores422(
  'prores-422-hq-mov',
  'MOV, ProRes 422 HQ',
  'To cut and grade with',
  'hq',
);
