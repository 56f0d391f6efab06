import { readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { basename, dirname, resolve } from 'node:path';
import { LurnError } from '@lurn/core';
import { partOf } from '@lurn/engine';

/** Text of a file that the person named. @throws LurnError `missing-file` */
export function readText(path: string): Promise<string> {
  return readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
    throw new LurnError(
      'missing-file',
      `${path} cannot be read: ${error.code === 'ENOENT' ? 'it is not there' : error.message}.`,
    );
  });
}

/** Which file a path is about, by whatever name: its place on the disk; null where there is none yet. */
async function identity(path: string): Promise<string | null> {
  const found = await stat(path).catch(() => null);
  return found && `${found.dev}:${found.ino}`;
}

/**
 * Refuses outputs that would be written over an input, over each other, or where no file can be.
 *
 * @param inputs, outputs  what each is called, and its path; those that are null are not asked for
 * @throws LurnError `bad-output` that says which and why
 */
export async function checkOutputs(
  inputs: Readonly<Record<string, string | null>>,
  outputs: Readonly<Record<string, string | null>>,
): Promise<void> {
  const taken = new Map<string, string>();
  for (const [name, path] of Object.entries(inputs)) {
    if (path === null) continue;
    taken.set(resolve(path), `the ${name}`);
    const id = await identity(path);
    if (id) taken.set(id, `the ${name}`);
  }
  for (const [name, path] of Object.entries(outputs)) {
    if (path === null) continue;
    const refuse = (why: string) => new LurnError('bad-output', `${name} ${path}: ${why}.`);
    const place = resolve(path);
    const id = await identity(place);
    const over = taken.get(place) ?? (id ? taken.get(id) : undefined);
    if (over) throw refuse(`that is ${over}, which would be lost. Choose another name`);
    const there = await stat(place).catch(() => null);
    if (there?.isDirectory()) throw refuse('that is a folder. Name a file in it');
    const folder = await stat(dirname(place)).catch(() => null);
    if (!folder?.isDirectory()) throw refuse(`there is no folder ${dirname(place)}`);
    taken.set(place, name);
    if (id) taken.set(id, name);
  }
}

/** Writes a file beside its place and moves it there: what was there before stays until all is written. */
export async function writeOut(path: string, text: string | Uint8Array): Promise<void> {
  const place = resolve(path);
  const part = partOf(place);
  try {
    await writeFile(part, text);
    await rename(part, place);
  } catch (error) {
    await rm(part, { force: true });
    const full = (error as NodeJS.ErrnoException).code === 'ENOSPC';
    const why = full ? 'the disk is full. Free some space' : (error as Error).message;
    throw new LurnError('cannot-write', `${basename(path)} cannot be written: ${why}.`);
  }
}
