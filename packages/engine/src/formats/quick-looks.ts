import type { Format } from './format.js';
import { plainPlanes, SMALL, takesAll } from './pictures.js';

/** Animated GIF: a small moving picture that every mail and page shows. */
export const gif: Format = {
  ...{ id: 'gif', name: 'GIF, small', use: 'A quick look', extension: 'gif' },
  ...{ depths: [8], alpha: false, sound: null, plays: false, settings: [], encoder: 'gif' },
  planes: plainPlanes,
  // A palette a picture: one for all would keep every picture in memory until the last.
  filters: () => [
    ...SMALL,
    'split[a][b];[a]palettegen=stats_mode=single[p];[b][p]paletteuse=new=1:dither=bayer:bayer_scale=4',
  ],
  video: () => [],
  muxer: 'gif',
  muxing: ['-loop', '0'],
  upright: true,
  looks: true,
  inOneGo: true,
  refuses: takesAll,
};

/** Animated WebP: finer and smaller than GIF. */
export const webp: Format = {
  ...gif,
  ...{
    id: 'webp',
    name: 'WebP, small',
    use: 'A quick look, finer',
    extension: 'webp',
    encoder: 'libwebp_anim',
  },
  filters: () => SMALL,
  video: () => ['-q:v', '80', '-pix_fmt', 'yuv420p'],
  muxer: 'webp',
};
