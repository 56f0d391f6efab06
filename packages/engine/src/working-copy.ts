import { rename, rm } from 'node:fs/promises';
import type { ClipInfo } from '@lurn/model';
import { toWorkingFormat, workingFormat } from './decode.js';
import { asInput, everyFrame, ffmpegPath, LOCAL_ONLY, startTool } from './tools.js';

/**
 * Makes a copy that browsers decode: H.264, upright, full size, visually lossless, a key frame every twelve, no
 * B-frames. Frame i of the original is the i-th frame of the copy; its time stamps are i / 25 and mean nothing
 * else. Odd sizes are padded by repeating the last row or column.
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
  const part = `${file}.part`;
  const pad = `pad=ceil(iw/2)*2:ceil(ih/2)*2,fillborders=right=${info.width % 2}:bottom=${info.height % 2}:mode=smear`;
  const format = workingFormat(info);
  // The filter pads whole chroma samples only: an odd picture is padded with chroma at full size.
  const even =
    info.width % 2 || info.height % 2
      ? `,format=${format.replace('420', '444')},${pad},format=${format}`
      : '';
  const args = [
    '-y',
    '-v',
    'error',
    '-nostats',
    '-progress',
    'pipe:1',
    ...LOCAL_ONLY,
    '-i',
    asInput(source),
    '-map',
    '0:v:0',
    ...(await everyFrame()),
    '-vf',
    `${toWorkingFormat(info)}${even},settb=1/25,setpts=N,setsar=1`,
    '-r',
    '25',
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-crf',
    '10',
    '-g',
    '12',
    '-bf',
    '0',
    '-movflags',
    '+faststart',
    '-map_metadata',
    '-1',
    '-f',
    'mp4',
    part,
  ];
  const tool = await startTool(ffmpegPath(), args, signal);
  tool.child.stdin!.end();
  tool.child.stdout!.setEncoding('utf8').on('data', (text: string) => {
    const frame = /frame=(\d+)\s[^]*$/.exec(text);
    if (frame) onProgress?.(Number(frame[1]));
  });
  try {
    await tool.succeed('copy-failed', 'Making the working copy');
    await rename(part, file);
  } catch (error) {
    await rm(part, { force: true });
    throw error;
  }
}
