import { stat } from 'node:fs/promises';
import { LurnError } from '@lurn/core';
import { indexClip } from '../frame-index.js';
import type { PictureFacts } from './picture-file.js';

/** What is known of a film that layers may show. */
export interface FilmFacts extends PictureFacts {
  readonly frames: number;
  readonly fps: number;
}

const MOST_BYTES = 4e9;
/** Films are shown no larger than this a side. */
const LARGEST = 2160;

/**
 * Looks at a film file.
 *
 * @param name  what the person calls it
 * @throws LurnError `too-large`, and what {@link indexClip} throws
 */
export async function readFilmFacts(path: string, name: string): Promise<FilmFacts> {
  const { size } = await stat(path);
  if (size > MOST_BYTES)
    throw new LurnError('too-large', `"${name}" has ${Math.round(size / 1e9)} GB; at most 4 are taken.`);
  const { info } = await indexClip(path, { name });
  // Nothing on a sign or a screen is larger than the picture that it is in.
  const shrink = Math.min(1, LARGEST / Math.max(info.width * info.pixelAspect, info.height));
  const [width, height] = [info.width * info.pixelAspect * shrink, info.height * shrink].map(Math.round);
  const notes = info.audio ? [`The sound of "${name}" is not heard: the shot keeps its own.`] : [];
  return { width, height, bytes: size, vector: false, frames: info.frames, fps: info.fps, notes };
}
