import { mkdir, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { LurnError } from '@lurn/core';
import { halvedPlane, type Plane } from '@lurn/core/picture';
import { fineMask, framesForMasks, halvingsForMasks, moverMasks, type AnalysedScene } from '@lurn/core/solve';
import type { IndexedClip } from './frame-index.js';
import { FileFrames } from './decode.js';
import { partOf } from './part-file.js';

/** Which masks are written, and where. */
export interface MasksRequest {
  readonly file: string;
  readonly clip: IndexedClip;
  readonly scene: AnalysedScene;
  /** Frames, both included. */
  readonly from: number;
  readonly to: number;
  /** Gets a folder for each mover, by its id, with a PNG a frame: white where the mover is. */
  readonly folder: string;
  readonly signal: AbortSignal;
  readonly onProgress: (done: number, total: number) => void;
}

/**
 * Writes a mask of every mover for every frame, in eight bits of grey, as large as the picture. What is stopped leaves
 * whole pictures only.
 *
 * @throws LurnError `cannot-write`, and what reading a clip throws
 */
export async function writeMasks(request: MasksRequest): Promise<void> {
  const { file, clip, scene, from, to, folder, signal, onProgress } = request;
  // The one reads ahead what frames are compared with, the other what masks are laid on.
  const [ahead, frames] = [new FileFrames(file, clip.info), new FileFrames(file, clip.info)];
  const small = new Map<number, Plane>();
  const halvings = halvingsForMasks(clip.info.width);
  try {
    for (const { id } of scene.movers) await written(mkdir(join(folder, id), { recursive: true }), folder);
    for (let frame = from; frame <= to; frame++) {
      onProgress(frame - from, to - from + 1);
      const wanted = framesForMasks(scene, frame);
      for (const f of wanted.toSorted((a, b) => a - b))
        if (!small.has(f)) small.set(f, copyOf(halvedPlane(await ahead.luma(f, signal), halvings)));
      const least = Math.min(...wanted);
      for (const f of small.keys()) if (f < least) small.delete(f);
      const masks = moverMasks(
        scene,
        wanted.map((f) => ({ frame: f, luma: small.get(f)! })),
      );
      const luma = await frames.luma(frame, signal);
      const { width, height } = luma;
      for (const [m, { id }] of scene.movers.entries()) {
        const raw = { width, height, channels: 1 as const };
        const png = await sharp(fineMask(masks, m, luma), { raw })
          .toColourspace('b-w')
          .png()
          .toBuffer();
        const place = join(folder, id, `${String(frame).padStart(6, '0')}.png`);
        const part = partOf(place);
        const done = writeFile(part, png).then(() => rename(part, place));
        await written(done, place);
      }
    }
    onProgress(to - from + 1, to - from + 1);
  } finally {
    ahead.close();
    frames.close();
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
