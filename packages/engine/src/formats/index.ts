import { LurnError } from '@lurn/core';
import type { EdgeMode } from '@lurn/core/warp';
import { ffmpegPath, runTool } from '../tools.js';
import { av1Webm } from './av1-webm.js';
import { dnxhrMov } from './dnxhr-mov.js';
import { exrZip } from './exr-zip.js';
import { ffv1Mkv } from './ffv1-mkv.js';
import type { Format } from './format.js';
import { h264Mov, h264Mp4 } from './h264-mp4.js';
import { hevcMov, hevcMp4 } from './hevc-mp4.js';
import { pngZip, tiffZip } from './picture-zips.js';
import { prores422HqMov, prores422Mov } from './prores-422-mov.js';
import { prores4444Mov } from './prores-4444-mov.js';
import { gif, webp } from './quick-looks.js';
import { vp9AlphaWebm, vp9Webm } from './vp9-webm.js';

export type { Format, FormatSettings, SoundRule } from './format.js';
export { soundArgs, soundLost } from './sounds.js';

/** Every kind of file that can be written, in the order in which they are offered. */
export const FORMATS: readonly Format[] = [
  ...[h264Mp4, h264Mov, hevcMp4, hevcMov, vp9Webm, av1Webm],
  ...[prores422Mov, prores422HqMov, prores4444Mov, dnxhrMov, ffv1Mkv],
  ...[vp9AlphaWebm, pngZip, tiffZip, exrZip, gif, webp],
];

/** @throws LurnError `no-format` that names those that there are */
export function formatById(id: string): Format {
  const found = FORMATS.find((f) => f.id === id);
  if (found) return found;
  throw new LurnError(
    'no-format',
    `There is no format "${id}": choose one of ${FORMATS.map((f) => f.id).join(', ')}.`,
  );
}

/** The format of a delivery: where some of the picture is left open, one that has alpha. @param alone  layers without it */
export function formatFor(id: string, edges: EdgeMode, alone = false): Format {
  const chosen = formatById(id);
  return (alone || edges === 'transparent') && !chosen.alpha ? FORMATS.find((f) => f.alpha)! : chosen;
}

let encoders: Promise<ReadonlySet<string>> | null = null;

/** The encoders of the ffmpeg at hand. */
function encodersAtHand(): Promise<ReadonlySet<string>> {
  encoders ??= runTool(ffmpegPath(), ['-hide_banner', '-encoders'], { seconds: 20 }).then(
    ({ stdout }) => new Set([...stdout.matchAll(/^ [VA][.\w]{5} (\S+)/gm)].map((m) => m[1])),
  );
  return encoders;
}

/** Why the tool at hand cannot write a format; null where it can. */
export async function whyNot({ encoder }: Pick<Format, 'encoder'>): Promise<string | null> {
  return (await encodersAtHand()).has(encoder) ? null : `this ffmpeg has no encoder ${encoder}`;
}

/** Formats that can be written here, and those that cannot, with the reason. */
export async function formatsAtHand(): Promise<{
  readonly offered: readonly Format[];
  readonly missing: readonly { readonly format: Format; readonly why: string }[];
}> {
  const told = await Promise.all(FORMATS.map(async (format) => ({ format, why: await whyNot(format) })));
  return {
    offered: told.filter((t) => t.why === null).map((t) => t.format),
    missing: told.flatMap(({ format, why }) => (why === null ? [] : [{ format, why }])),
  };
}
