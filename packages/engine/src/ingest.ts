import { rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { LurnError, ShakinessMeter } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { indexClip } from './frame-index.js';
import { sweepParts } from './part-file.js';
import { makeThumbnail } from './thumbnail.js';
import { makeWorkingCopy } from './working-copy.js';

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
  let reduced = 0;
  const { info, times, direct } = await indexClip(path, {
    name,
    signal,
    thumbnail,
    look: (luma, frame, expected) => {
      reduced = luma.width;
      // The meter keeps what it is given until the next frame: it gets its own copy.
      meter.add({ ...luma, data: luma.data.slice() });
      onProgress?.({ phase: 'reading', frames: frame + 1, expected: expected > frame + 1 ? expected : null });
    },
  });
  const taken = await stat(thumbnail).then(
    ({ size }) => size > 0,
    () => false,
  );
  // The container told of more frames than there are: any of those that there are will do.
  if (!taken) {
    await makeThumbnail(path, info, Math.floor(info.frames / 3), thumbnail, signal).catch(
      (error: unknown) => {
        if (error instanceof LurnError && ['stopped', 'disk-full'].includes(error.code)) throw error;
      },
    );
  }
  const copy = join(folder, 'copy.mp4');
  await rm(copy, { force: true });
  await sweepParts(folder);
  if (!direct) {
    await makeWorkingCopy(path, info, copy, signal, (frames) =>
      onProgress?.({ phase: 'copying', frames, expected: info.frames }),
    );
  }
  return { info, times, shakiness: meter.result(info.fps) * (info.width / reduced), usesCopy: !direct };
}
