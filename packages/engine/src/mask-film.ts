import { readFileSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { LurnError } from '@lurn/core';
import { unpackScene } from '@lurn/core/formats';
import { halvedPlane, type Plane } from '@lurn/core/picture';
import { FineMasks, regrouped, type Regroup } from '@lurn/core/solve';
import type { ClipInfo } from '@lurn/model';
import { masksOf } from './masks.js';
import { runInThread } from './one-thing-thread.js';
import { threadFile } from './threads.js';
import { asFile, ffmpegPath, startTool, toolError, type RunningTool } from './tools.js';

/** Which mover's masks become a film. */
export interface MaskFilmRequest {
  readonly file: string;
  readonly info: ClipInfo;
  /** The file of what is known of the whole picture (`scene.bin`), and what the editor said of its features. */
  readonly scene: string;
  readonly regroups: readonly Regroup[];
  readonly mover: string;
  /** Frames, both included. */
  readonly from: number;
  readonly to: number;
  /** The film; Matroska. */
  readonly out: string;
}

/** Films of masks are so wide at the most: what lies finer is not known. */
const WIDEST = 1920;

/**
 * Writes the masks of one mover as a film in eight bits of grey without loss (FFV1), a frame each, white where it is.
 *
 * @returns its samples per pixel of the upright source
 * @throws LurnError `no-mover`, `encode-failed`, `disk-full`, `stopped`, and what reading a clip throws
 */
export async function writeMaskFilm(
  request: MaskFilmRequest,
  onProgress: (done: number) => void,
): Promise<number> {
  const { file, info, regroups, mover, from, to, out } = request;
  const scene = regrouped(unpackScene(readFileSync(request.scene)), regroups);
  const m = scene.movers.findIndex(({ id }) => id === mover);
  if (m < 0)
    throw new LurnError('no-mover', 'What was to be kept in front is no mover of this clip any more.');
  const halvings = Math.max(0, Math.ceil(Math.log2(info.width / WIDEST)));
  let film: RunningTool | undefined;
  let scale = 1;
  try {
    for await (const { masks, picture } of masksOf({ file, clip: { info }, scene, from, to, onProgress })) {
      const luma = halvedPlane(picture.luma, halvings);
      const chroma = picture.chroma!.map((plane) => halvedPlane(plane, halvings)) as [Plane, Plane];
      scale = luma.width / info.width;
      film ??= await startFilm(luma, info.fps, out);
      await put(film, new FineMasks(masks, { luma, chroma }).of(m));
    }
    film?.child.stdin!.end();
    await film?.succeed('encode-failed', WRITING);
    return scale;
  } catch (error) {
    film?.kill();
    await film?.ended.catch(() => null);
    throw error;
  }
}

const WRITING = 'Writing the mask';

function startFilm({ width, height }: Plane, fps: number, out: string): Promise<RunningTool> {
  return startTool(ffmpegPath(), [
    ...['-v', 'error', '-nostats', '-y', '-f', 'rawvideo', '-pix_fmt', 'gray'],
    ...['-video_size', `${width}x${height}`, '-framerate', String(fps), '-i', 'pipe:0'],
    ...['-c:v', 'ffv1', '-level', '3', '-g', '1', '-pix_fmt', 'gray', '-f', 'matroska', asFile(out)],
  ]);
}

async function put(film: RunningTool, mask: Uint8Array): Promise<void> {
  const fault = await new Promise((resolve) => film.child.stdin!.write(mask, resolve));
  if (!fault) return;
  await film.ended.catch(() => null);
  throw toolError('encode-failed', WRITING, film.errorText);
}

/** {@link writeMaskFilm} in a thread of its own. Nothing is left behind when that fails or is stopped. */
export async function maskFilmInThread(
  request: MaskFilmRequest,
  signal: AbortSignal,
  onProgress: (done: number) => void,
): Promise<number> {
  const thread = threadFile(import.meta.url, './mask-film-thread-entry');
  try {
    return await runInThread<number>({ thread, request, doing: 'Making the mask', signal, onProgress });
  } catch (error) {
    await rm(request.out, { force: true });
    throw error;
  }
}
