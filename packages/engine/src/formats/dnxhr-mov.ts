import type { Format } from './format.js';
import { plainPlanes } from './pictures.js';
import { wholeSound } from './sounds.js';

/** The codec's smallest picture. */
const [LEAST_WIDTH, LEAST_HEIGHT] = [256, 120];

/** DNxHR HQ in QuickTime: to cut with, where ProRes is not at home (SMPTE VC-3). */
export const dnxhrMov: Format = {
  ...{ id: 'dnxhr-mov', name: 'MOV, DNxHR HQ', use: 'To cut with, in studios', extension: 'mov' },
  ...{ depths: [8], alpha: false, sound: true, plays: false, settings: [], encoder: 'dnxhd' },
  planes: plainPlanes,
  video: () => ['-profile:v', 'dnxhr_hq', '-pix_fmt', 'yuv422p'],
  audio: wholeSound,
  muxer: 'mov',
  muxing: ['-movflags', '+write_colr'],
  refuses: ({ width, height }) =>
    width >= LEAST_WIDTH && height >= LEAST_HEIGHT
      ? null
      : `DNxHR holds pictures of ${LEAST_WIDTH} x ${LEAST_HEIGHT} pixels and more; this clip has ${width} x ${height}. Choose another format.`,
};
