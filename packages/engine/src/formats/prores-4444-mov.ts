import type { Format } from './format.js';

/** ProRes 4444 in QuickTime: the master format of the trade that carries alpha, and that every editing program reads. */
export const prores4444Mov: Format = {
  id: 'prores-4444-mov',
  name: 'MOV, ProRes 4444 + alpha',
  extension: 'mov',
  depths: [10],
  alpha: true,
  sound: true,
  settings: [],
  planes: () => 'yuva420p',
  video: () => [
    ...['-c:v', 'prores_ks', '-profile:v', '4444'],
    ...['-pix_fmt', 'yuva444p10le', '-alpha_bits', '16'],
  ],
  audio: () => ['-c:a', 'pcm_s16le'],
  muxer: 'mov',
  refuses: (info) =>
    info.rate
      ? null
      : 'Transparency cannot be written for a clip whose frame rate varies. Choose other edges at the station Frame, or render the layers with the picture.',
};
