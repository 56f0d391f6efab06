import { workingFormat } from '../decode.js';
import { layoutOf } from '../layout.js';
import type { Format } from './format.js';
import { takesAll } from './pictures.js';
import { MOV_SOUND, MP4_SOUND } from './sounds.js';

/** H.264 in MP4: plays everywhere. Sound is copied where MP4 carries it. */
export const h264Mp4: Format = {
  ...{ id: 'h264-mp4', name: 'MP4, H.264', use: 'To watch: plays everywhere', extension: 'mp4' },
  ...{ depths: [8], alpha: false, sound: MP4_SOUND, plays: true, settings: ['crf'], encoder: 'libx264' },
  planes: (info) => layoutOf('420', 8, false, workingFormat(info) === 'yuvj420p'),
  video: (info, { crf, preset }) => [
    ...['-preset', preset, '-crf', String(crf)],
    ...['-pix_fmt', workingFormat(info)],
  ],
  muxer: 'mp4',
  muxing: ['-movflags', '+faststart+write_colr'],
  refuses: takesAll,
};

/** The same in QuickTime. */
export const h264Mov: Format = {
  ...h264Mp4,
  ...{
    id: 'h264-mov',
    name: 'MOV, H.264',
    use: 'To watch, in QuickTime',
    extension: 'mov',
    muxer: 'mov',
    sound: MOV_SOUND,
  },
};
