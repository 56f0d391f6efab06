import { rename, rm } from 'node:fs/promises';
import type { ClipInfo } from '@lurn/model';
import { partOf } from './part-file.js';
import { asFile, ffmpegPath, LOCAL_ONLY, runTool, toolError } from './tools.js';

/**
 * Writes a clip's sound alone as AAC that any browser plays, with frame 0's moment at its beginning: silence stands where
 * the sound begins later than the picture.
 *
 * @throws LurnError `sound-failed`
 */
export async function makeSound(
  source: string,
  info: Pick<ClipInfo, 'startTime' | 'fileStart'>,
  file: string,
  signal?: AbortSignal,
): Promise<void> {
  // The tool counts from the file's earliest stream; our zero is the first picture.
  const zero = info.startTime - info.fileStart;
  const part = partOf(file);
  try {
    const { status, stderr } = await runTool(
      ffmpegPath(),
      [
        ...['-y', '-v', 'error', ...LOCAL_ONLY, '-ss', zero.toFixed(6), '-i', asFile(source)],
        ...['-map', '0:a:0', '-vn', '-ac', '2', '-af', 'aresample=48000:async=1:first_pts=0'],
        ...['-c:a', 'aac', '-b:a', '160k', '-movflags', '+faststart', '-f', 'mp4', asFile(part)],
      ],
      { seconds: 600, signal },
    );
    if (status !== 0) throw toolError('sound-failed', 'Taking the sound out', stderr);
    await rename(part, file);
  } finally {
    await rm(part, { force: true });
  }
}
