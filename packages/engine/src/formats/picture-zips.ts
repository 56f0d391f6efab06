import type { Format } from './format.js';
import { layoutFor } from '../layout.js';
import { deepRgb, steadyRateOnly, toRgb } from './pictures.js';

const zipOf = (kind: string, use: string, encoder: string, options: readonly string[]): Format => ({
  ...{ id: `${encoder}-zip`, name: `${kind} pictures, zip`, use, extension: 'zip', pictures: encoder },
  ...{ depths: [8, 16], alpha: true, sound: null, plays: false, settings: [], encoder },
  // With alpha of sixteen bits: that of ten would not quite reach what is opaque.
  planes: (info) => layoutFor(info, { depths: [8, 16], chroma: ['420', '422', '444'], alpha: true }),
  video: () => options,
  // More than eight bits become sixteen, which hold all of them.
  filters: (info) => (info.bitDepth > 8 ? deepRgb(info) : toRgb(info, 'rgba')),
  muxer: 'image2',
  upright: true,
  refuses: steadyRateOnly('Transparency'),
});

/** A picture a frame, named by its number, red, green, blue and alpha. */
export const pngZip = zipOf('PNG', 'A picture a frame', 'png', ['-compression_level', '4']);
export const tiffZip = zipOf('TIFF', 'A picture a frame, for print', 'tiff', [
  '-compression_algo',
  'deflate',
]);
