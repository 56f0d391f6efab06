import { createWriteStream, type WriteStream } from 'node:fs';
import { rename, rm } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { finished } from 'node:stream/promises';
import { LurnError } from '@lurn/core';
import { ZipFile as Yazl } from 'yazl';
import { partOf } from './part-file.js';

/**
 * A zip that grows beside its place, one file after the other, none packed again: pictures are packed already. Larger than
 * four gigabytes where it has to be. It is moved to its place when it is complete.
 */
export class ZipFile {
  private readonly archive = new Yazl();
  private readonly stream: WriteStream;
  private readonly part: string;
  /** Rejects when the file cannot be written any further. */
  private readonly failed: Promise<never>;

  constructor(private readonly file: string) {
    this.part = partOf(file);
    this.stream = createWriteStream(this.part);
    this.failed = new Promise((_, reject) => {
      this.stream.on('error', reject);
      this.archive.on('error', reject);
    });
    this.failed.catch(() => undefined);
    this.archive.outputStream.pipe(this.stream);
  }

  /** Adds a file; settles when its bytes have been taken over. @throws LurnError `cannot-write`, `disk-full` */
  async add(name: string, content: Uint8Array): Promise<void> {
    const source = Readable.from([content], { objectMode: false });
    // The same moment for all: the same pictures make the same bytes.
    this.archive.addReadStream(source, name, { compress: false, mtime: MOMENT, size: content.length });
    await this.whole(finished(source));
  }

  /** @throws LurnError `cannot-write`, `disk-full` */
  async finish(): Promise<void> {
    this.archive.end();
    await this.whole(finished(this.stream));
    await rename(this.part, this.file);
  }

  async discard(): Promise<void> {
    this.archive.outputStream.unpipe(this.stream);
    this.stream.destroy();
    await rm(this.part, { force: true });
  }

  private async whole<T>(work: Promise<T>): Promise<T> {
    try {
      return await Promise.race([work, this.failed]);
    } catch (error) {
      await this.discard();
      const full = (error as NodeJS.ErrnoException).code === 'ENOSPC';
      if (full) throw new LurnError('disk-full', 'The disk is full. Free some space and try again.');
      throw new LurnError('cannot-write', `${this.file} cannot be written: ${(error as Error).message}.`);
    }
  }
}

const MOMENT = new Date(Date.UTC(2000, 0, 1));
