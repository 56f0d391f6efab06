import type { ClipInfo } from '@lurn/model';
import type { Format } from './format.js';
import { layoutFor } from '../layout.js';
import { deepened, takesAll } from './pictures.js';
import { MOV_SOUND, MP4_SOUND } from './sounds.js';

/** x265 looks alike at about so much more. */
const ON_ITS_SCALE = 2;

/** The screen that HDR was graded on goes on with it. */
function masteringAs({ colour: { mastering } }: ClipInfo): string[] {
  const { display = null, light = null } = mastering ?? {};
  return [...(display ? [`master-display=${display}`] : []), ...(light ? [`max-cll=${light}`] : [])];
}

/** HEVC in MP4: half the size of H.264, played by newer devices. */
export const hevcMp4: Format = {
  ...{ id: 'hevc-mp4', name: 'MP4, HEVC', use: 'To watch, small: newer devices play it', extension: 'mp4' },
  ...{ depths: [8, 10], alpha: false, sound: MP4_SOUND, plays: false, settings: ['crf'], encoder: 'libx265' },
  planes: (info) => layoutFor(info, { depths: [8, 10], chroma: ['420'] }),
  video: (info, { crf, preset }) => [
    ...[
      '-preset',
      preset,
      '-crf',
      String(crf + ON_ITS_SCALE),
      '-pix_fmt',
      deepened(info, 'yuv420p', 'yuv420p10le'),
    ],
    // What it writes depends on how many frames are under way at a time.
    ...['-x265-params', ['log-level=error:frame-threads=2', ...masteringAs(info)].join(':')],
  ],
  muxer: 'mp4',
  tag: 'hvc1',
  muxing: ['-movflags', '+faststart+write_colr'],
  refuses: takesAll,
};

/** The same in QuickTime. */
export const hevcMov: Format = {
  ...hevcMp4,
  ...{
    id: 'hevc-mov',
    name: 'MOV, HEVC',
    use: 'To watch, small, in QuickTime',
    extension: 'mov',
    muxer: 'mov',
    sound: MOV_SOUND,
  },
};
