import { rename, rm } from 'node:fs/promises';
import { LurnError } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { partOf } from './part-file.js';
import { streamOf, toWorkingFormat, workingFormat } from './decode.js';
import { everyFrame } from './quirks.js';
import { asFile, ffmpegPath, ffprobePath, LOCAL_ONLY, runTool, startTool } from './tools.js';

/** What of a clip its copy depends on. */
type Copied = Pick<ClipInfo, 'width' | 'height' | 'colour' | 'pixelFormat'>;

/** Filters that make of every picture one of the copy: upright, full size, padded to even sizes, stamped i / 25. */
export function copyFilter(info: Copied): string {
  const pad = `pad=ceil(iw/2)*2:ceil(ih/2)*2,fillborders=right=${info.width % 2}:bottom=${info.height % 2}:mode=smear`;
  const format = workingFormat(info);
  // The filter pads whole chroma samples only: an odd picture is padded with chroma at full size.
  const even =
    info.width % 2 || info.height % 2
      ? `,format=${format.replace('420', '444')},${pad},format=${format}`
      : '';
  return `${toWorkingFormat(info)}${even},settb=1/25,setpts=N,setsar=1`;
}

/** How the copy is coded: visually lossless, a key frame every twelve, no B-frames. */
export const copyOutput = (part: string): string[] => [
  ...['-r', '25', '-c:v', 'libx264', '-preset', 'veryfast', '-crf', '10', '-g', '12', '-bf', '0'],
  ...['-movflags', '+faststart', '-map_metadata', '-1', '-f', 'mp4', asFile(part)],
];

/**
 * Makes a copy that browsers decode: H.264, upright, full size, visually lossless. Frame i of the original is the i-th
 * frame of the copy; its time stamps are i / 25 and mean nothing else. Odd sizes are padded by repeating the last row
 * or column.
 *
 * The copy is counted before it takes its place: one with fewer frames is none.
 *
 * @throws LurnError `copy-failed`, `disk-full`, `stopped`; no half file is left.
 */
export async function makeWorkingCopy(
  source: string,
  info: ClipInfo,
  file: string,
  signal?: AbortSignal,
  onProgress?: (frames: number) => void,
): Promise<void> {
  const part = partOf(file);
  const args = [
    ...['-y', '-v', 'error', '-nostats', '-progress', 'pipe:1', ...LOCAL_ONLY],
    ...['-i', asFile(source), '-map', streamOf(info), ...(await everyFrame())],
    ...['-vf', copyFilter(info), ...copyOutput(part)],
  ];
  const tool = await startTool(ffmpegPath(), args, signal);
  tool.child.stdin!.end();
  tool.child.stdout!.setEncoding('utf8').on('data', (text: string) => {
    const frame = /frame=(\d+)\s[^]*$/.exec(text);
    if (frame) onProgress?.(Number(frame[1]));
  });
  try {
    await tool.succeed('copy-failed', 'Making the working copy');
    const frames = await takeCopy(part, file, info.frames, signal);
    if (frames !== info.frames) {
      throw new LurnError(
        'copy-failed',
        `Making the working copy failed: it has ${frames} of ${info.frames} frames. Bring the clip in again.`,
      );
    }
  } finally {
    await rm(part, { force: true });
  }
}

/** Puts a copy that has just been written into its place, if it has all frames. @returns how many it has */
export async function takeCopy(
  part: string,
  file: string,
  frames: number,
  signal?: AbortSignal,
): Promise<number> {
  const has = await countPackets(part, signal);
  if (has === frames) await rename(part, file);
  return has;
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
