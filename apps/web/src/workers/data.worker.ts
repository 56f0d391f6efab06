import { LurnError } from '@lurn/core';
import {
  dataExportById,
  handOver,
  inTurn,
  type DataChoices,
  type MovingData,
  type Pack,
} from '@lurn/core/formats';
import { strToU8, Zip, ZipPassThrough } from 'fflate';
import { Comlink } from './comlink';

/** Bytes after which what is there so far becomes a piece of the file, which the browser may put aside. */
const PIECE = 32e6;

/** A zip of this kind holds no more. */
const MOST = 2 ** 32 - 2 ** 26;

/** By the browser's own, which is faster and has threads of its own. */
const pack: Pack = async (raw) => {
  const packed = new Blob([raw as BlobPart]).stream().pipeThrough(new CompressionStream('deflate'));
  return new Uint8Array(await new Response(packed).arrayBuffer());
};

class DataWorker {
  /** Writes data as a file, several of them as a zip. To stop it, end the worker. @throws LurnError as core's `handOver` */
  async write(
    data: MovingData,
    id: string,
    choices: DataChoices,
    onProgress: (done: number) => void,
  ): Promise<Blob> {
    const format = dataExportById(id);
    const files = handOver(data, format, choices, pack);
    if (!format.many) {
      const [{ content }] = files;
      return new Blob([(await content) as BlobPart]);
    }
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
    for await (const { name, content } of inTurn(files)) {
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
