import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { LurnError } from '@lurn/core';
import type { Size } from '@lurn/core/plan';
import type { ClipCopy, ClipInfo } from '@lurn/model';
import { streamOf, toWorkingFormat, workingFormat } from './decode.js';
import { partOf } from './part-file.js';
import { everyFrame } from './quirks.js';
import { asFile, ffmpegPath, ffprobePath, LOCAL_ONLY, runTool, startTool, toolError } from './tools.js';

/**
 * Copies that browsers decode, in parts of a few frames each: a part can be played as soon as it is there, in any order.
 * Frame i of the clip is the (i mod {@link PART_FRAMES})-th of the part i / {@link PART_FRAMES}; its time stamps are
 * i / 25 from the part's beginning and mean nothing else.
 */

/** `copy`: in full size, for what browsers cannot decode; `reduced`: small, for what they cannot play at its rate. */
export type CopyKind = 'copy' | 'reduced';

/** Two groups of pictures: short enough that one that is waited for is there soon. */
export const PART_FRAMES = 24;
const GROUP = 12;
const RATE = 25;

/** Pixels a second that a page decodes and draws without a graphics card: 1080p at 30, with a little to spare. */
const PLAYABLE = 1920 * 1080 * 32;
/** Pixels of a reduced picture: 960 lines of 16:9. */
const REDUCED = 1706 * 960;

/** What of a clip its copy depends on. */
type Copied = Pick<ClipInfo, 'width' | 'height' | 'colour' | 'pixelFormat'>;

/** The size at which a clip that is too large to be played as it is can be played; null where it can. */
export function reducedSize({ width, height }: Size, fps: number): Size | null {
  if (width * height * fps <= PLAYABLE) return null;
  const scale = Math.sqrt((REDUCED * Math.min(1, 32 / fps)) / (width * height));
  // Chroma, and both halved once more, come out even then: what is drawn of them is halved by kernels.
  const eights = (side: number) => 8 * Math.max(2, Math.round((side * scale) / 8));
  return scale < 0.9 ? { width: eights(width), height: eights(height) } : null;
}

/** The size of a copy in full: even, since browsers decode nothing else. */
export const copySize = ({ width, height }: Size): Size => ({
  width: width + (width % 2),
  height: height + (height % 2),
});

/** A copy that is to be made. */
export interface CopyPlan extends ClipCopy {
  readonly kind: CopyKind;
}

/** Which copies a clip needs. @param plays  whether browsers decode the clip itself */
export function copiesFor(clip: Size, fps: number, plays: boolean): CopyPlan[] {
  const reduced = reducedSize(clip, fps);
  return [
    ...(plays ? [] : [{ kind: 'copy' as const, ...copySize(clip), part: PART_FRAMES }]),
    ...(reduced ? [{ kind: 'reduced' as const, ...reduced, part: PART_FRAMES }] : []),
  ];
}

/** A part's file in a copy's folder. */
export const partFile = (part: number): string => `${String(part).padStart(5, '0')}.mp4`;

/**
 * Filters that make of every picture one of the copy: upright, stamped i / 25; in full size odd sides are padded by
 * repeating the last row or column.
 */
export function copyFilter(info: Copied, { kind, width, height }: CopyPlan): string {
  const stamped = 'settb=1/25,setpts=N,setsar=1';
  if (kind === 'reduced')
    return `scale=${width}:${height}:flags=bilinear,${toWorkingFormat(info)},${stamped}`;
  const pad = `pad=ceil(iw/2)*2:ceil(ih/2)*2,fillborders=right=${info.width % 2}:bottom=${info.height % 2}:mode=smear`;
  const format = workingFormat(info);
  // The filter pads whole chroma samples only: an odd picture is padded with chroma at full size.
  const even =
    info.width % 2 || info.height % 2
      ? `,format=${format.replace('420', '444')},${pad},format=${format}`
      : '';
  return `${toWorkingFormat(info)}${even},${stamped}`;
}

/** Brings pictures to the size of a reduced copy. */
export const reduceFilter = ({ width, height }: Size): string => `scale=${width}:${height}:flags=bilinear`;

/** How pictures are coded: visually lossless in full size, quickly in reduced size; a key frame every twelve, no B-frames. */
function coding(kind: CopyKind): string[] {
  const quality = kind === 'copy' ? ['veryfast', '-crf', '10'] : ['ultrafast', '-crf', '23'];
  return [
    ...['-r', String(RATE), '-c:v', 'libx264', '-preset', ...quality],
    ...['-g', String(GROUP), '-sc_threshold', '0', '-bf', '0', '-map_metadata', '-1'],
  ];
}

/** What writes a copy in parts into a folder. */
export const copyOutput = (folder: string, kind: CopyKind): string[] => [
  ...coding(kind),
  ...['-f', 'segment', '-segment_time', String(PART_FRAMES / RATE), '-segment_time_delta', '0.02'],
  ...['-segment_format', 'mp4', '-reset_timestamps', '1', asFile(join(folder, '%05d.mp4'))],
];

/** What ffmpeg says when it begins a part: those before it are whole. @returns how many that are; null of other lines */
export function partsBefore(line: string, kind: CopyKind): number | null {
  const begun = new RegExp(`Opening '.*[/\\\\]${kind}[/\\\\](\\d{5,})\\.mp4' for writing`).exec(line);
  return begun && Number(begun[1]);
}

/** An empty folder for a copy. */
export async function emptyCopy(folder: string): Promise<void> {
  await rm(folder, { recursive: true, force: true });
  await mkdir(folder);
}

/**
 * Makes a copy in full or reduced size by itself. It is counted: one with fewer frames than the clip is none.
 *
 * @param folder  is emptied first
 * @throws LurnError `copy-failed`, `disk-full`, `stopped`
 */
export async function makeWorkingCopy(
  source: string,
  info: ClipInfo,
  folder: string,
  plan: CopyPlan,
  signal?: AbortSignal,
  onProgress?: (frames: number) => void,
): Promise<void> {
  await emptyCopy(folder).catch((error: Error) => {
    throw toolError('copy-failed', 'Making the working copy', error.message);
  });
  const args = [
    ...['-y', '-v', 'error', '-nostats', '-progress', 'pipe:1', ...LOCAL_ONLY],
    ...['-i', asFile(source), '-map', streamOf(info), ...(await everyFrame())],
    ...['-vf', copyFilter(info, plan), ...copyOutput(folder, plan.kind)],
  ];
  const tool = await startTool(ffmpegPath(), args, signal);
  tool.child.stdin!.end();
  tool.child.stdout!.setEncoding('utf8').on('data', (text: string) => {
    const frame = /frame=(\d+)\s[^]*$/.exec(text);
    if (frame) onProgress?.(Number(frame[1]));
  });
  await tool.succeed('copy-failed', 'Making the working copy');
  const frames = await framesIn(folder, signal);
  if (frames === info.frames) return;
  throw new LurnError(
    'copy-failed',
    `Making the working copy failed: it has ${frames} of ${info.frames} frames. Bring the clip in again.`,
  );
}

/**
 * Makes one part out of turn, because somebody looks at it.
 *
 * @param times  seconds of each frame from frame 0
 * @throws LurnError `copy-failed`, `disk-full`, `stopped`; no half file is left.
 */
export async function makePart(
  source: string,
  { info, times }: { readonly info: ClipInfo; readonly times: Float64Array },
  part: number,
  plan: CopyPlan,
  file: string,
  signal?: AbortSignal,
): Promise<void> {
  const first = part * PART_FRAMES;
  const half = first > 0 ? (times[first] - times[first - 1]) / 2 : 0;
  // Files are sought from their own beginning, which may lie before the first picture.
  const at = first > 0 ? times[first] - half + info.startTime - info.fileStart : 0;
  const growing = partOf(file);
  const args = [
    ...['-y', '-v', 'error', ...LOCAL_ONLY, ...(at > 0 ? ['-ss', at.toFixed(6)] : [])],
    ...['-i', asFile(source), '-map', streamOf(info), ...(await everyFrame())],
    ...['-vf', copyFilter(info, plan), '-frames:v', String(PART_FRAMES)],
    ...[...coding(plan.kind), '-f', 'mp4', asFile(growing)],
  ];
  try {
    const tool = await startTool(ffmpegPath(), args, signal);
    tool.child.stdin!.end();
    tool.child.stdout!.resume();
    await tool.succeed('copy-failed', 'Copying a part of the clip');
    await rename(growing, file);
  } finally {
    await rm(growing, { force: true });
  }
}

/** Frames of a whole copy that lies in parts. */
export async function framesIn(folder: string, signal?: AbortSignal): Promise<number> {
  const parts = (await readdir(folder).catch(() => [])).filter((name) => /^\d+\.mp4$/.test(name)).sort();
  if (parts.length === 0 || parts.at(-1) !== partFile(parts.length - 1)) return 0;
  return (parts.length - 1) * PART_FRAMES + (await countPackets(join(folder, parts.at(-1)!), signal));
}

/** Pictures in a file that was just written. */
async function countPackets(path: string, signal?: AbortSignal): Promise<number> {
  const { stdout } = await runTool(
    ffprobePath(),
    [
      ...LOCAL_ONLY,
      ...['-v', 'error', '-count_packets', '-select_streams', 'v:0'],
      ...['-show_entries', 'stream=nb_read_packets', '-of', 'csv=p=0', asFile(path)],
    ],
    { seconds: 600, signal },
  );
  return Number(stdout.trim().replace(/,$/, ''));
}
