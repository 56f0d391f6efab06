import type { Format } from './format.js';
import { layoutFor } from '../layout.js';
import { deepened } from './pictures.js';
import { WHOLE_SOUND } from './sounds.js';

/** The codec's smallest picture. */
const [LEAST_WIDTH, LEAST_HEIGHT] = [256, 120];

/** DNxHR HQ in QuickTime: to cut with, where ProRes is not at home (SMPTE VC-3). */
export const dnxhrMov: Format = {
  ...{ id: 'dnxhr-mov', name: 'MOV, DNxHR HQ', use: 'To cut with, in studios', extension: 'mov' },
  ...{ depths: [8, 10], alpha: false, sound: WHOLE_SOUND, plays: false, settings: [], encoder: 'dnxhd' },
  planes: (info) => layoutFor(info, { depths: [8, 10], chroma: ['420', '422'] }),
  // HQX is HQ of ten bits.
  video: (info) => [
    ...['-profile:v', deepened(info, 'dnxhr_hq', 'dnxhr_hqx')],
    ...['-pix_fmt', deepened(info, 'yuv422p', 'yuv422p10le')],
  ],
  muxer: 'mov',
  muxing: ['-movflags', '+write_colr'],
  refuses: ({ width, height }) =>
    width >= LEAST_WIDTH && height >= LEAST_HEIGHT
      ? null
      : `DNxHR holds pictures of ${LEAST_WIDTH} x ${LEAST_HEIGHT} pixels and more; this clip has ${width} x ${height}. Choose another format.`,
};
