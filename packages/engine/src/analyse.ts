import { rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { packScene } from '@lurn/core/formats';
import { firstGoal, nothingToHold } from '@lurn/core/plan';
import { perspectiveOfMover, type AnalysedScene } from '@lurn/core/solve';
import type { ClipInfo, ClipMade, ClipScene } from '@lurn/model';
import { indexClip } from './frame-index.js';
import { runInThread } from './one-thing-thread.js';
import { partOf } from './part-file.js';
import { SCENE_SAMPLES, SceneReader } from './scene.js';
import { threadFile } from './threads.js';

/** Clips of so many frames are analysed while they are read: of longer ones that would take several times as long. */
export const MOST_ON_THE_WAY = 3000;
/** Longer clips than this are not analysed: what is followed through them would fill the memory. */
export const MOST_ANALYSED = 20_000;

/** What a look at the whole picture tells of a clip. */
export interface Looked extends Pick<ClipMade, 'unheld'> {
  /** Root mean square shake, in source pixels. */
  readonly shakiness: number;
  readonly scene: ClipScene | null;
}

/** Writes what is known of the whole picture into a clip's folder, as `scene.bin`. @param analysed  null where it could not be followed */
export async function writeScene(
  analysed: AnalysedScene | null,
  { fps }: Pick<ClipInfo, 'fps'>,
  folder: string,
): Promise<Looked> {
  const unheld = analysed && nothingToHold(analysed);
  const first = analysed && !unheld ? firstGoal(analysed, fps) : null;
  if (!analysed || !first) return { shakiness: 0, scene: null, ...(unheld && { unheld }) };
  const file = join(folder, 'scene.bin');
  const part = partOf(file);
  // What is held by itself: whoever opens the clip, or renders it, need not work it out anew.
  perspectiveOfMover(analysed, 0);
  await writeFile(part, packScene(analysed));
  await rename(part, file);
  const { shake, ...goal } = first;
  const cuts = [...analysed.tracks.cuts];
  const { movers, fades } = analysed;
  return { shakiness: shake, scene: { movers, cuts, fades, first: goal } };
}

/** A clip that has been read, and the folder of what is made of it. */
export interface AnalyseRequest {
  readonly path: string;
  readonly folder: string;
  readonly info: ClipInfo;
}

/**
 * Looks at the whole picture of a clip that has been read already.
 *
 * @throws LurnError as {@link indexClip} does
 */
export async function analyseClip(
  { path, folder, info }: AnalyseRequest,
  onFrame?: (frame: number) => void,
): Promise<Looked> {
  const reader = new SceneReader(false);
  try {
    await indexClip(path, {
      beside: () => Promise.resolve({ sidelines: [], samples: SCENE_SAMPLES }),
      look: async (luma, frame) => {
        await reader.add(luma);
        onFrame?.(frame + 1);
      },
    });
    return await writeScene(await reader.finish(info), info, folder);
  } finally {
    reader.end();
  }
}

/** {@link analyseClip} in a thread of its own, which gives way to whatever else there is to do. To stop it, abort the signal. */
export function analyseInThread(
  request: AnalyseRequest,
  signal: AbortSignal,
  onProgress?: (frame: number) => void,
): Promise<Looked> {
  const thread = threadFile(import.meta.url, './analyse-thread-entry');
  return runInThread({ thread, request, doing: 'Looking at what moves in the clip', signal, onProgress });
}
