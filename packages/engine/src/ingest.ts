import { rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { LurnError, ShakinessMeter } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { indexClip } from './frame-index.js';
import { partOf, sweepParts } from './part-file.js';
import { makeThumbnail } from './thumbnail.js';
import { makeWorkingCopy, takeCopy } from './working-copy.js';

export interface IngestRequest {
  readonly path: string;
  readonly name: string;
  /** Where `thumb.jpg` and, if one is needed, `copy.mp4` go. */
  readonly folder: string;
}

export interface IngestedClip {
  readonly info: ClipInfo;
  readonly times: Float64Array;
  /** Root mean square shake, in source pixels. */
  readonly shakiness: number;
  /** True when browsers play `copy.mp4` instead of the original. */
  readonly usesCopy: boolean;
}

export interface IngestProgress {
  readonly phase: 'reading' | 'copying';
  readonly frames: number;
  /** Of about how many; null while that is not known. */
  readonly expected: number | null;
}

/**
 * All that is found out about a clip when it is brought in: frame index, shakiness, thumbnail, and a working copy
 * where browsers cannot play the original frame for frame.
 *
 * @throws LurnError as its parts do.
 */
export async function ingestClip(
  { path, name, folder }: IngestRequest,
  signal?: AbortSignal,
  onProgress?: (progress: IngestProgress) => void,
): Promise<IngestedClip> {
  const meter = new ShakinessMeter();
  const thumbnail = join(folder, 'thumb.jpg');
  await rm(thumbnail, { force: true });
  const copy = join(folder, 'copy.mp4');
  await rm(copy, { force: true });
  await sweepParts(folder);
  const part = partOf(copy);
  let reduced = 0;
  try {
    const { info, times, direct, copied } = await indexClip(path, {
      name,
      signal,
      thumbnail,
      copy: part,
      look: (luma, frame, expected, copying) => {
        reduced = luma.width;
        // The meter keeps what it is given until the next frame: it gets its own copy.
        meter.add({ ...luma, data: luma.data.slice() });
        const phase = copying ? 'copying' : 'reading';
        onProgress?.({ phase, frames: frame + 1, expected });
      },
    });
    await checkThumbnail(path, info, thumbnail, signal);
    // What was copied on the way is taken if it is whole; else what kept it from being tells when it is made by itself.
    const whole = copied && (await takeCopy(part, copy, info.frames, signal).catch(() => 0)) === info.frames;
    if (!direct && !whole) {
      await makeWorkingCopy(path, info, copy, signal, (frames) =>
        onProgress?.({ phase: 'copying', frames, expected: info.frames }),
      );
    }
    const shakiness = reduced > 0 ? meter.result(info.fps) * (info.width / reduced) : 0;
    return { info, times, shakiness, usesCopy: !direct };
  } finally {
    await rm(part, { force: true });
  }
}

/** Makes the thumbnail where it was not taken on the way: the container told of more frames than there are. */
async function checkThumbnail(
  path: string,
  info: ClipInfo,
  thumbnail: string,
  signal?: AbortSignal,
): Promise<void> {
  const taken = await stat(thumbnail).then(
    ({ size }) => size > 0,
    () => false,
  );
  if (taken) return;
  await makeThumbnail(path, info, Math.floor(info.frames / 3), thumbnail, signal).catch((error: unknown) => {
    if (error instanceof LurnError && ['stopped', 'disk-full'].includes(error.code)) throw error;
  });
}
