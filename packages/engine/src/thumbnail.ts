import { dirname } from 'node:path';
import { LurnError } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { streamOf } from './decode.js';
import { toneFilter } from './tone.js';
import { asFile, ffmpegPath, LOCAL_ONLY, runTool, toolError } from './tools.js';

/** Chooses a frame and makes it small: 480 pixels wide at the most. @param tone  what shows HDR, as a filter */
export const thumbnailFilter = (frame: number, tone = ''): string =>
  `select=eq(n\\,${frame}),scale='min(480,iw*sar)':-2${tone}`;

/** What writes one picture to a JPEG file. */
export const thumbnailOutput = (file: string): string[] => [
  ...['-frames:v', '1', '-q:v', '4', '-f', 'image2', '-update', '1', asFile(file)],
];

/** Writes a JPEG of one frame, 480 pixels wide at the most. @throws LurnError `thumbnail-failed`. */
export async function makeThumbnail(
  source: string,
  info: Pick<ClipInfo, 'stream' | 'colour'>,
  frame: number,
  file: string,
  signal?: AbortSignal,
): Promise<void> {
  const tone = await toneFilter(info.colour, dirname(file));
  const { status, stderr } = await runTool(
    ffmpegPath(),
    [
      '-y',
      '-v',
      'error',
      ...LOCAL_ONLY,
      '-i',
      asFile(source),
      ...['-map', streamOf(info), '-vf', thumbnailFilter(frame, tone)],
      ...thumbnailOutput(file),
    ],
    { seconds: 300, signal },
  ).catch((error: unknown) => {
    throw error instanceof LurnError ? error : new LurnError('thumbnail-failed', String(error));
  });
  if (status !== 0) throw toolError('thumbnail-failed', 'Making the thumbnail', stderr);
}
