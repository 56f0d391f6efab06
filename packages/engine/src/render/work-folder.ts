import { createHash } from 'node:crypto';
import { mkdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { LurnError } from '@lurn/core';
import { sweepParts } from '../part-file.js';

/** Changes whenever parts that were rendered before would no longer be those that are rendered now. */
const VERSION = 2;
const KEY = 'key';

/**
 * The folder in which the parts of a render are kept until they are joined. What lies in it belongs to one order and one
 * source: of another nothing is taken.
 */
export class WorkFolder {
  private constructor(
    readonly path: string,
    private readonly source: string,
    private readonly before: string,
  ) {}

  /**
   * @param order  what is rendered, told in any way that differs where the pictures do
   * @throws LurnError `encode-failed` where there is no folder to put it in, `frame-unreadable` where the source is gone
   */
  static async open(path: string, source: string, order: string): Promise<WorkFolder> {
    const before = await lookOf(source).catch(() => {
      throw new LurnError('frame-unreadable', 'The original cannot be found. Put it back where it was.');
    });
    const key = createHash('sha256').update(`${VERSION} ${before} ${order}`).digest('hex');
    const known = await readFile(join(path, KEY), 'utf8').catch(() => null);
    if (known !== key) {
      await rm(path, { recursive: true, force: true });
      await mkdir(path).catch((error: NodeJS.ErrnoException) => {
        if (error.code !== 'ENOENT') throw error;
        throw new LurnError(
          'encode-failed',
          `There is no folder "${basename(dirname(path))}". Make it first.`,
        );
      });
      await writeFile(join(path, KEY), key);
    }
    await sweepParts(path);
    return new WorkFolder(path, source, before);
  }

  /** @throws LurnError `source-changed` where the source is another file than in the beginning; no part is kept then */
  async demandSameSource(): Promise<void> {
    if ((await lookOf(this.source).catch(() => null)) === this.before) return;
    await this.remove();
    throw new LurnError(
      'source-changed',
      'The original was replaced or removed while it was rendered. Put it back, and render again.',
    );
  }

  remove(): Promise<void> {
    return rm(this.path, { recursive: true, force: true });
  }
}

/** By what a file is told from another in its place. */
async function lookOf(file: string): Promise<string> {
  const { size, mtimeMs, ino } = await stat(file);
  return `${size} ${mtimeMs} ${ino}`;
}
