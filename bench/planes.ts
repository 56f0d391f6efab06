import type { Plane } from '@lurn/core/picture';
import { FileFrames, indexClip } from '@lurn/engine';

/** All frames of a clip, as luma. */
export async function planesOf(file: string): Promise<Plane[]> {
  const { info } = await indexClip(file);
  const frames = new FileFrames(file, info);
  const planes: Plane[] = [];
  for (let f = 0; f < info.frames; f++) {
    const plane = await frames.luma(f);
    planes.push({ ...plane, data: plane.data.slice() });
  }
  frames.close();
  return planes;
}
