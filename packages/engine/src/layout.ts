import type { Subsampling } from '@lurn/core/picture';
import type { ClipInfo } from '@lurn/model';

/** How the samples of a picture lie in memory: luma, then both chroma planes, then alpha where there is one. */
export interface SampleLayout {
  /** As ffmpeg names it. */
  readonly pixelFormat: string;
  /** Bits of a sample; above 8 each takes two bytes, little end first. */
  readonly depth: number;
  readonly subsampling: Subsampling;
  readonly alpha: boolean;
}

type Chroma = '420' | '422' | '444';
const SUBSAMPLING: Readonly<Record<Chroma, Subsampling>> = {
  '420': { x: 2, y: 2 },
  '422': { x: 2, y: 1 },
  '444': { x: 1, y: 1 },
};

/** The chroma planes that a source has, by its pixel format; those that are rare count as the next finer. */
export function chromaOf(pixelFormat: string): Chroma {
  if (/^yuva?j?(422)|^(nv16|nv20|yuyv422|uyvy422|p210)/.test(pixelFormat)) return '422';
  if (/^yuva?j?(444|440)|^(gbr|rgb|bgr|argb|abgr|0rgb|0bgr|pal8|xyz|p410|ayuv)/.test(pixelFormat))
    return '444';
  return '420';
}

/** What a format carries. */
export interface Carries {
  readonly depths: readonly number[];
  readonly chroma: readonly Chroma[];
  readonly alpha?: boolean;
}

/** A layout by its parts. @param full  of eight bits that span the whole range, as x264 wants it told */
export function layoutOf(chroma: Chroma, depth: number, alpha = false, full = false): SampleLayout {
  const ending = depth > 8 ? `${depth}le` : '';
  const kind = alpha ? 'yuva' : full && depth === 8 ? 'yuvj' : 'yuv';
  return { pixelFormat: `${kind}${chroma}p${ending}`, depth, subsampling: SUBSAMPLING[chroma], alpha };
}

/**
 * The layout in which a clip is decoded, drawn and handed to an encoder: as deep and as fine as the source, as far as the
 * format carries that. A source of eight bits stays so: an encoder of more makes more of it by itself.
 */
export function layoutFor(info: ClipInfo, { depths, chroma, alpha = false }: Carries): SampleLayout {
  const own = chromaOf(info.pixelFormat);
  const kept = chroma.includes(own) ? own : own === '444' && chroma.includes('422') ? '422' : '420';
  // As deep as the source, else the next that holds all of it, else the deepest.
  const deep = depths.find((d) => d >= info.bitDepth) ?? depths[depths.length - 1];
  // Planes with alpha come in even depths that ffmpeg has names for.
  return layoutOf(kept, alpha && deep === 12 ? 10 : deep, alpha);
}

/** Samples of each plane, in turn. */
export function planeSizes(
  { subsampling: { x, y }, alpha }: SampleLayout,
  width: number,
  height: number,
): (readonly [number, number])[] {
  const chroma = [Math.ceil(width / x), Math.ceil(height / y)] as const;
  return [[width, height], chroma, chroma, ...(alpha ? [[width, height] as const] : [])];
}

/** Bytes of a picture. */
export function pictureBytes(layout: SampleLayout, width: number, height: number): number {
  const samples = planeSizes(layout, width, height).reduce((n, [w, h]) => n + w * h, 0);
  return samples * (layout.depth > 8 ? 2 : 1);
}

/** Four characters by which raw pictures of a layout are told in Matroska; null where there are none. */
export function fourccOf({ pixelFormat, depth }: SampleLayout): string | null {
  const plain: Readonly<Record<string, string>> = {
    ...{ yuv420p: 'I420', yuvj420p: 'I420', yuv422p: 'Y42B', yuv444p: '444P' },
  };
  const chroma = /^yuv(420|422|444)p/.exec(pixelFormat)?.[1];
  if (depth === 8) return plain[pixelFormat] ?? null;
  if (!chroma) return null;
  return `Y3${String.fromCharCode({ '420': 11, '422': 10, '444': 0 }[chroma as Chroma], depth)}`;
}

/** The same without a plane of alpha. */
export function withoutAlpha(layout: SampleLayout): SampleLayout {
  return { ...layout, pixelFormat: layout.pixelFormat.replace('yuva', 'yuv'), alpha: false };
}
