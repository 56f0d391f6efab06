import { statfs } from 'node:fs/promises';
import type { Logger } from '@nestjs/common';
import { LurnError } from '@lurn/core';

/** True for errors that come of a full disk: of the file system, of SQLite, of a tool, or whatever wraps one. */
export function isFullDisk(error: unknown): boolean {
  for (let e = error; e instanceof Error; e = e.cause) {
    const { code } = e as { code?: unknown };
    if (code === 'ENOSPC' || code === 'SQLITE_FULL' || code === 'EDQUOT' || code === 'disk-full') return true;
    if (/database or disk is full|no space left on device/i.test(e.message)) return true;
  }
  return false;
}

/** How often what a full disk kept from being written is tried again, in milliseconds. */
const AGAIN_MS = 30_000;

/**
 * Writes what the server writes when it starts. On a full disk it starts all the same, says so, and does it when there is
 * room: what is there can be looked at meanwhile.
 */
export async function whenThereIsRoom(log: Logger, work: () => Promise<void>): Promise<void> {
  try {
    await work();
  } catch (error) {
    if (!isFullDisk(error)) throw error;
    log.warn(fullDisk().message);
    setTimeout(() => {
      whenThereIsRoom(log, work).catch((later: unknown) => log.error(later));
    }, AGAIN_MS).unref();
  }
}

/** What stays free for saving, in bytes: a twentieth of the disk, and no more than this. */
const MOST_RESERVED = 500e6;

/** @throws LurnError `disk-full` where a file of so many bytes would leave no room for saving */
export async function demandRoom(folder: string, bytes: number, name: string): Promise<void> {
  const { bavail, blocks, bsize } = await statfs(folder);
  const room = bavail * bsize - Math.min(MOST_RESERVED, (blocks * bsize) / 20);
  if (bytes <= room) return;
  const mb = (n: number) => `${Math.max(0, Math.round(n / 1e6))} MB`;
  throw new LurnError(
    'disk-full',
    `"${name}" has ${mb(bytes)}, and there is room for ${mb(room)}: the rest is kept for saving. Free some space.`,
  );
}

export function fullDisk(): LurnError {
  return new LurnError(
    'disk-full',
    'The disk is full. Free some space: nothing saved so far is lost, and what waits goes on by itself.',
  );
}
