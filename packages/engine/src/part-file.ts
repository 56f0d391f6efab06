import { randomUUID } from 'node:crypto';
import { readdir, rm } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';

/**
 * A name beside a file, of its own each time, under which it grows until it is complete: two that write the same file
 * never write into one.
 */
export function partOf(file: string): string {
  return join(dirname(file), `.${basename(file)}.${randomUUID().slice(0, 8)}.part${extname(file)}`);
}

const PART = /^\..+\.[0-9a-f]{8}\.part(\.\w+)?$|\.part$/;

/** Removes what was left half written in a folder by a process that is gone. */
export async function sweepParts(folder: string): Promise<void> {
  const names = await readdir(folder).catch(() => []);
  await Promise.all(
    names
      .filter((name) => PART.test(name))
      .map((name) => rm(join(folder, name), { force: true, recursive: true })),
  );
}
