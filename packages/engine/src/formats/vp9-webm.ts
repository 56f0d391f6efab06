import type { Format, FormatSettings } from './format.js';
import { layoutFor, layoutOf } from '../layout.js';
import { deepened, steadyRateOnly, takesAll } from './pictures.js';
import { WEBM_SOUND } from './sounds.js';

/** libvpx looks alike at about so much more. */
const ON_ITS_SCALE = 6;

const coded = ({ crf }: FormatSettings) => [
  ...['-crf', String(Math.min(63, crf + ON_ITS_SCALE)), '-b:v', '0'],
  ...['-deadline', 'good', '-cpu-used', '4', '-row-mt', '1', '-tile-columns', '2'],
];

/** VP9 in WebM: for pages, free of licences. */
export const vp9Webm: Format = {
  ...{ id: 'vp9-webm', name: 'WebM, VP9', use: 'For a page', extension: 'webm' },
  ...{
    depths: [8, 10],
    alpha: false,
    sound: WEBM_SOUND,
    plays: true,
    settings: ['crf'],
    encoder: 'libvpx-vp9',
  },
  planes: (info) => layoutFor(info, { depths: [8, 10], chroma: ['420'] }),
  video: (info, settings) => [...coded(settings), ...['-pix_fmt', deepened(info, 'yuv420p', 'yuv420p10le')]],
  muxer: 'webm',
  upright: true,
  refuses: takesAll,
};

/** The same with what is open left open. */
export const vp9AlphaWebm: Format = {
  ...vp9Webm,
  ...{ id: 'vp9-alpha-webm', name: 'WebM, VP9 + alpha', use: 'For a page, with transparency', alpha: true },
  depths: [8],
  planes: () => layoutOf('420', 8, true),
  // Frames that are never shown have no alpha of their own, and of those held back some would be lost.
  video: (_, settings) => [
    ...coded(settings),
    ...['-pix_fmt', 'yuva420p', '-auto-alt-ref', '0', '-lag-in-frames', '0'],
  ],
  refuses: steadyRateOnly('Transparency'),
};
