import type { DataChoices, MovingData } from '@lurn/core/formats';
import { Comlink } from './comlink';
import type { DataApi } from './data.worker';

/** A thread that writes data into a file. */
export interface DataWriter {
  /**
   * @param id      of the format
   * @param onDone  told how many files of it are written
   * @throws LurnError as core's `handOver`; it never settles once it has been stopped
   */
  write(data: MovingData, id: string, choices: DataChoices, onDone: (files: number) => void): Promise<Blob>;
  stop(): void;
}

export function openWriter(): DataWriter {
  const thread = new Worker(new URL('./data.worker.ts', import.meta.url), { type: 'module' });
  const api = Comlink.wrap<DataApi>(thread);
  return {
    write: (data, id, choices, onDone) => api.write(data, id, choices, Comlink.proxy(onDone)),
    stop: () => thread.terminate(),
  };
}
