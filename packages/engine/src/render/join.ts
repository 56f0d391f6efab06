import { readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { LurnError, stoppedError } from '@lurn/core';
import type { Size } from '@lurn/core/plan';
import { soundStays, type ClipInfo } from '@lurn/model';
import type { Format } from '../formats/index.js';
import { partOf } from '../part-file.js';
import { opusLead, turnedBy, VARYING_RATE_MUXED } from '../quirks.js';
import { asFile, ffmpegPath, LOCAL_ONLY, startTool } from '../tools.js';
import { ZipFile } from '../zip-file.js';
import { otherStreamArgs, otherStreamsOf, timecodeAfter, type OtherStreams } from './other-streams.js';
import { codedFor } from './coded.js';
import { comparedSize, comparePlan, type Comparison } from './compare.js';
import { colourTags } from './encoder.js';
import { demuxerOf } from './part-check.js';
import { partName, type Part } from './parts.js';

export interface JoinRequest {
  readonly file: string;
  /** The folder in which every part lies. */
  readonly work: string;
  readonly parts: readonly Part[];
  readonly source: string;
  readonly info: ClipInfo;
  /** Seconds of every frame of the clip from frame 0. */
  readonly times: Float64Array;
  readonly format: Format;
  /** Of the delivered picture, upright, and of what it is compared with. */
  readonly delivery: Size;
  readonly compare?: Comparison | null;
  readonly signal?: AbortSignal;
}

/**
 * Joins the parts of a render without encoding them again, with the sound of the same stretch of the source. The file
 * grows beside its place under another name and is moved there when it is complete; the parts stay.
 *
 * @throws LurnError `encode-failed`, `disk-full`, `stopped`
 */
export async function joinParts(request: JoinRequest): Promise<void> {
  const { file, work, parts, format } = request;
  if (format.pictures) return zipped(request);
  if (format.inOneGo) return rename(join(work, partName(parts[0], format)), file);
  const grown = partOf(file);
  try {
    await muxed(request, grown);
    await rename(grown, file);
  } finally {
    await rm(grown, { force: true });
  }
}

async function muxed(request: JoinRequest, grown: string): Promise<void> {
  const { work, parts, source, info, times, format, signal } = request;
  const range = { from: parts[0].from, to: parts[parts.length - 1].to };
  const list = join(work, 'parts.txt');
  await writeFile(list, listOf(parts, info, times, format));
  const besides = await otherStreamsOf(source, signal);
  const beside = otherStreamArgs(besides, info, format);
  const lead = becomesOpus(besides, format) ? await opusLead() : 0;
  const turned = format.upright || info.turns === 0 ? null : await turnedBy(360 - 90 * info.turns);
  const args = [
    ...['-y', '-v', 'error', '-nostats'],
    ...(turned?.input ?? []),
    // The parts are read as what they are, and nothing that one of them names.
    ...['-protocol_whitelist', 'file', '-format_whitelist', `concat,${demuxerOf(format)}`],
    ...['-f', 'concat', '-safe', '0', '-i', asFile(list)],
    ...soundInput(source, info, times, range, lead),
    ...['-map', '0:v:0', '-c:v', 'copy', ...beside],
    ...['-map_chapters', '1', '-map_metadata', '1', ...timecodeArgs(besides, info, range.from, format)],
    ...(format.tag ? ['-tag:v', format.tag] : []),
    ...(format.filters ? [] : colourTags(info)),
    ...(format.alpha && format.muxer === 'webm' ? ['-metadata:s:v:0', 'alpha_mode=1'] : []),
    ...(info.rate ? [] : VARYING_RATE_MUXED),
    ...(format.muxing ?? []),
    // Opus and FLAC in MP4 are standard by now, but the muxer of ffmpeg 4 wants to be told so.
    ...['-strict', '-2'],
    ...(turned?.output ?? []),
    ...['-progress', 'pipe:1', '-f', format.muxer, asFile(grown)],
  ];
  const tool = await startTool(ffmpegPath(), args, signal);
  tool.child.stdin!.end();
  let frames = 0;
  tool.child.stdout!.setEncoding('utf8').on('data', (text: string) => {
    frames = Number([...text.matchAll(/frame= *(\d+)/g)].at(-1)?.[1] ?? frames);
  });
  await tool.succeed('encode-failed', 'Encoding');
  await demandFrames(frames, request);
}

/** What is joined has every frame; of parts that give others none is kept. @throws LurnError `parts-broken` */
async function demandFrames(frames: number, { work, parts, format }: JoinRequest): Promise<void> {
  const wanted = parts[parts.length - 1].to - parts[0].from + 1;
  if (frames === wanted) return;
  for (const part of parts) await rm(join(work, partName(part, format)), { recursive: true, force: true });
  throw new LurnError(
    'parts-broken',
    `The parts of the render gave ${frames} frames in place of ${wanted}, and were removed. Render again.`,
  );
}

/** True where all sound tracks go into WebM as Opus. */
function becomesOpus({ sounds }: OtherStreams, { muxer, sound }: Format): boolean {
  return (
    muxer === 'webm' &&
    sound !== null &&
    sounds.every((codec) => codec === 'opus' || !soundStays(sound, codec))
  );
}

/** The time code of the first picture of a range, for files that tell one. */
function timecodeArgs(
  { timecode }: OtherStreams,
  { rate, fps }: ClipInfo,
  from: number,
  format: Format,
): string[] {
  if (!timecode || !rate || !['mov', 'mp4'].includes(format.muxer)) return [];
  return ['-timecode', timecodeAfter(timecode, from, fps)];
}

/** The parts in turn, each with how long it lasts, so that none drifts from where it belongs. */
function listOf(parts: readonly Part[], info: ClipInfo, times: Float64Array, format: Format): string {
  const { from } = parts[0];
  const micro = (frame: number) => Math.round(startOf(frame, from, info, times) * 1e6);
  const lines = parts.map((part) => {
    const length = (micro(part.to + 1) - micro(part.from)) / 1e6;
    return `file ${partName(part, format)}\nduration ${length.toFixed(6)}\n`;
  });
  return `ffconcat version 1.0\n${lines.join('')}`;
}

/** Seconds from the first frame of a range to a frame, as they are encoded. */
function startOf(frame: number, from: number, { rate, duration }: ClipInfo, times: Float64Array): number {
  if (!rate) return (frame < times.length ? times[frame] : duration) - times[from];
  const [n, d = 1] = rate.split('/').map(Number);
  return ((frame - from) * d) / n;
}

/** The size of the pictures, which are upright. */
function sizeOf({ info, delivery, compare }: JoinRequest): readonly [number, number] {
  const { outputSize } = codedFor(info, delivery);
  const [w, h] = compare ? comparedSize(outputSize, comparePlan(compare.way, info.turns)) : outputSize;
  return info.turns % 2 ? [h, w] : [w, h];
}

/** The pictures of every part as one file; each goes when it is in it, so that they are hardly ever there twice. */
async function zipped(request: JoinRequest): Promise<void> {
  const { file, work, parts, format, info, signal } = request;
  const [width, height] = sizeOf(request);
  const zip = new ZipFile(file);
  let frames = 0;
  for (const part of parts) {
    const folder = join(work, partName(part, format));
    for (const name of (await readdir(folder)).sort()) {
      if (signal?.aborted) {
        await zip.discard();
        throw stoppedError('Rendering');
      }
      const bytes = await readFile(join(folder, name));
      frames++;
      const { finish } = format;
      if (!finish) await zip.add(name, bytes);
      else
        await zip.add(
          name.replace(/\w+$/, finish.extension),
          Buffer.from(finish.picture(bytes, width, height, info)),
        );
    }
  }
  await demandFrames(frames, request).catch(async (error: unknown) => {
    await zip.discard();
    throw error;
  });
  await zip.finish();
}

/** The same stretch of the source, for its sound and what else it has, so placed that the range's first frame is at 0. @param lead  seconds that it is to come later */
function soundInput(
  source: string,
  info: ClipInfo,
  times: Float64Array,
  { from, to }: { readonly from: number; readonly to: number },
  lead: number,
): string[] {
  const whole = from === 0 && to === info.frames - 1;
  // ffmpeg counts from the file's earliest stream; our zero is the range's first picture.
  const zero = info.startTime - info.fileStart + times[from];
  const length = (to + 1 < times.length ? times[to + 1] : info.duration) - times[from];
  const cut = whole ? [] : ['-ss', zero.toFixed(6), '-t', length.toFixed(6)];
  const by = lead - (whole ? zero : 0);
  const shift = Math.abs(by) > 1e-6 ? ['-itsoffset', by.toFixed(6)] : [];
  return [...LOCAL_ONLY, ...cut, ...shift, '-vn', '-i', asFile(source)];
}
