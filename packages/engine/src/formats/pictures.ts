import { spaceNamed } from '@lurn/core/picture';
import type { ClipInfo } from '@lurn/model';
import { layoutOf } from '../layout.js';

/** Planes of eight bits that an encoder takes whatever the range: that is told by the tags alone. */
export const plainPlanes = () => layoutOf('420', 8);

/** The pixel format of an encoder that takes some depths: eight bits, or the most it has for what is deeper. */
export const deepened = (info: ClipInfo, plain: string, deep: string) => (info.bitDepth > 8 ? deep : plain);

/** The filter that turns planes into red, green and blue, full range, by the clip's own matrix. */
export function toRgb({ colour, height }: ClipInfo, as: string): string[] {
  const matrix = { bt709: 'bt709', bt2020nc: 'bt2020', smpte170m: 'smpte170m' }[
    spaceNamed(colour.space, height) as string
  ];
  const from = `in_color_matrix=${matrix ?? 'bt709'}:in_range=${colour.range}`;
  return [
    `scale=${from}:out_range=pc:flags=bicubic+accurate_rnd+full_chroma_int+full_chroma_inp`,
    `format=${as}`,
  ];
}

/** The same with sixteen bits; the little end comes first only then: on the straight way there ffmpeg 4 is off by some. */
export const deepRgb = (info: ClipInfo) => [...toRgb(info, 'rgba64be'), 'format=rgba64le'];

/** A small picture, few a second: for a quick look. */
export const SMALL = ['fps=15', "scale='min(640,iw)':-2:flags=lanczos"];

/** Filters that turn coded pictures by quarters, clockwise. */
export function turnedUpright(turns: number): string[] {
  return [[], ['transpose=clock'], ['hflip', 'vflip'], ['transpose=cclock']][turns & 3];
}

export const takesAll = () => null;

/** Formats whose every picture lasts as long as the next. @param what  as it begins the sentence */
export const steadyRateOnly = (what: string) => (info: ClipInfo) =>
  info.rate ? null : `${what} cannot be written for a clip whose frame rate varies. Choose another format.`;
