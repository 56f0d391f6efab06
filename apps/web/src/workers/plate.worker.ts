import { CleanPlate, plateWarp } from '@lurn/core/compose';
import { codedToUpright, invert, type Matrix3 } from '@lurn/core/geometry';
import type { ChromaSiting } from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan';
import { FrameReader, type ClipFile, type ColourCoding } from '@lurn/media';
import { Comlink } from './comlink';

export interface PlateRequest {
  readonly size: Size;
  readonly coding: ColourCoding & { readonly siting: ChromaSiting; readonly height: number };
  /** The frames that it is made from, and where its places are on each. */
  readonly frames: readonly { readonly frame: number; readonly toFrame: Matrix3 }[];
}

class PlateWorker {
  /** Makes a clean plate, as a PNG. To stop it, end the worker. @throws LurnError where the clip cannot be read */
  async make(
    file: ClipFile,
    { size, coding, frames }: PlateRequest,
    onProgress: (done: number, total: number) => void,
  ): Promise<Blob> {
    const reader = await FrameReader.open(file, { cacheBytes: 40e6, readAhead: 0 });
    const fromUpright = invert(codedToUpright(reader.clip.turns, file.width, file.height));
    const plate = new CleanPlate(size, coding.siting);
    // The median itself takes about as long as two more of them.
    const total = frames.length + 2;
    for (const [i, { frame, toFrame }] of frames.entries()) {
      onProgress(i, total);
      plate.add({ ...(await reader.get(frame)), toLuma: plateWarp(toFrame, fromUpright) });
    }
    reader.close();
    onProgress(frames.length, total);
    const canvas = new OffscreenCanvas(size.width, size.height);
    const pixels = plate.median(coding, coding.height);
    canvas.getContext('2d')!.putImageData(new ImageData(pixels, size.width), 0, 0);
    onProgress(total - 1, total);
    return canvas.convertToBlob({ type: 'image/png' });
  }
}

export type PlateApi = PlateWorker;
Comlink.expose(new PlateWorker());
