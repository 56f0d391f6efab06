import type { Size } from '@lurn/core/plan';
import { Comlink } from './comlink';
import type { MapsReader, ReadMaps } from './maps';

/** Reads a zip of ST maps in a thread of its own. @throws LurnError that says what is not as it should be */
export async function readMaps(file: File, picture: Size): Promise<ReadMaps> {
  const thread = new Worker(new URL('./maps.worker.ts', import.meta.url), { type: 'module' });
  try {
    return await Comlink.wrap<MapsReader>(thread).read(file, picture);
  } finally {
    thread.terminate();
  }
}
