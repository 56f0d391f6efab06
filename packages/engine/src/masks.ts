import { mkdir, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { LurnError } from '@lurn/core';
import { halvedPlane, type Plane } from '@lurn/core/picture';
import {
  FineMasks,
  framesForMasks,
  halvingsForMasks,
  moverMasks,
  type AnalysedScene,
  type MaskPicture,
  type MoverMasks,
} from '@lurn/core/solve';
import type { IndexedClip } from './frame-index.js';
import { FileFrames } from './decode.js';
import { partOf } from './part-file.js';

/** Of what masks are made. */
export interface MasksRequest {
  readonly file: string;
  readonly clip: Pick<IndexedClip, 'info'>;
  readonly scene: AnalysedScene;
  /** Frames, both included. */
  readonly from: number;
  readonly to: number;
  readonly signal?: AbortSignal;
  readonly onProgress: (done: number, total: number) => void;
}

/**
 * The masks of a clip's movers, frame by frame, with the picture that they are laid on. Its memory is that of a few frames.
 *
 * @throws what reading a clip throws
 */
export async function* masksOf(
  request: MasksRequest,
): AsyncGenerator<{ masks: MoverMasks; picture: MaskPicture }> {
  const { file, clip, scene, from, to, signal, onProgress } = request;
  // The one reads ahead what frames are compared with, the other what masks are laid on.
  const [ahead, frames] = [new FileFrames(file, clip.info), new FileFrames(file, clip.info, true)];
  const small = new Map<number, Plane>();
  const halvings = halvingsForMasks(clip.info.width);
  try {
    for (let frame = from; frame <= to; frame++) {
      onProgress(frame - from, to - from + 1);
      const wanted = framesForMasks(scene, frame);
      for (const f of wanted.toSorted((a, b) => a - b))
        if (!small.has(f)) small.set(f, copyOf(halvedPlane(await ahead.luma(f, signal), halvings)));
      const least = Math.min(...wanted);
      for (const f of small.keys()) if (f < least) small.delete(f);
      const { y: luma, u, v } = await frames.planes(frame, signal);
      const chroma = [u, v] as const;
      const pictures = wanted.map((f) => ({ frame: f, luma: small.get(f)!, chroma }));
      yield { masks: moverMasks(scene, pictures), picture: { frame, luma, chroma } };
    }
    onProgress(to - from + 1, to - from + 1);
  } finally {
    ahead.close();
    frames.close();
  }
}

/**
 * Writes a mask of every mover for every frame, in eight bits of grey, as large as the picture. What is stopped leaves
 * whole pictures only.
 *
 * @param folder  gets a folder for each mover, by its id, with a PNG a frame: white where the mover is
 * @throws LurnError `cannot-write`, and what reading a clip throws
 */
export async function writeMasks(request: MasksRequest, folder: string): Promise<void> {
  const { movers } = request.scene;
  for (const { id } of movers) await written(mkdir(join(folder, id), { recursive: true }), folder);
  for await (const { masks, picture } of masksOf(request)) {
    const { frame, luma } = picture;
    const raw = { width: luma.width, height: luma.height, channels: 1 as const };
    const fine = new FineMasks(masks, picture);
    for (const [m, { id }] of movers.entries()) {
      const png = await sharp(fine.of(m), { raw }).toColourspace('b-w').png().toBuffer();
      const place = join(folder, id, `${String(frame).padStart(6, '0')}.png`);
      const part = partOf(place);
      const done = writeFile(part, png).then(() => rename(part, place));
      await written(done, place);
    }
  }
}

/** A reader's plane may be over memory that the next one takes. */
function copyOf(plane: Plane): Plane {
  return { ...plane, data: plane.data.slice() };
}

function written<T>(doing: Promise<T>, place: string): Promise<T> {
  return doing.catch((error: NodeJS.ErrnoException) => {
    const why = error.code === 'ENOSPC' ? 'the disk is full. Free some space' : error.message;
    throw new LurnError('cannot-write', `${place} cannot be written: ${why}.`);
  });
}
