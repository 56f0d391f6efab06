import { soundIsCopied } from '@lurn/model';
import { workingFormat } from '../decode.js';
import type { Format } from './format.js';

/** H.264 in MP4: plays everywhere. Sound is copied where MP4 carries it. */
export const h264Mp4: Format = {
  id: 'h264-mp4',
  name: 'MP4, H.264',
  extension: 'mp4',
  depths: [8],
  alpha: false,
  sound: true,
  settings: ['crf'],
  planes: workingFormat,
  video: (info, { crf, preset }) => [
    ...['-c:v', 'libx264', '-preset', preset, '-crf', String(crf)],
    ...['-pix_fmt', workingFormat(info)],
  ],
  audio: (info) => (soundIsCopied(info) ? ['-c:a', 'copy'] : ['-c:a', 'aac', '-b:a', '320k']),
  muxer: 'mp4',
  refuses: () => null,
};
