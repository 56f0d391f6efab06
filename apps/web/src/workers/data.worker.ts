import { dataExportById, handOver, LurnError, type DataChoices, type MovingData } from '@lurn/core';
import { strToU8, Zip, ZipPassThrough } from 'fflate';
import { Comlink } from './comlink';

/** Bytes after which what is there so far becomes a piece of the file, which the browser may put aside. */
const PIECE = 32e6;

/** A zip of this kind holds no more. */
const MOST = 2 ** 32 - 2 ** 26;

class DataWorker {
  /** Writes data as a file, several of them as a zip. To stop it, end the worker. @throws LurnError as core's `handOver` */
  async write(
    data: MovingData,
    id: string,
    choices: DataChoices,
    onProgress: (done: number) => void,
  ): Promise<Blob> {
    const format = dataExportById(id);
    const files = handOver(data, format, choices);
    if (!format.many) return new Blob([...files].map((f) => f.content as BlobPart));
    const pieces: Blob[] = [];
    let [chunks, bytes, done] = [[] as Uint8Array[], 0, 0];
    const put = () => {
      pieces.push(new Blob(chunks as BlobPart[]));
      [chunks, bytes] = [[], 0];
    };
    let whole = 0;
    const zip = new Zip((error, chunk) => {
      if (error) throw error;
      chunks.push(chunk);
      bytes += chunk.length;
      whole += chunk.length;
    });
    for (const { name, content } of files) {
      // They are packed already.
      const entry = new ZipPassThrough(name);
      zip.add(entry);
      entry.push(typeof content === 'string' ? strToU8(content) : content, true);
      if (whole > MOST)
        throw new LurnError(
          'too-large',
          `It would be more than four gigabytes after ${done} of the files. Set a shorter range, or use "lurn hand-over" into a folder.`,
        );
      if (bytes > PIECE) put();
      onProgress(++done);
    }
    zip.end();
    put();
    return new Blob(pieces);
  }
}

export type DataApi = DataWorker;
Comlink.expose(new DataWorker());
