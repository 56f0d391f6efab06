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

export function fullDisk(): LurnError {
  return new LurnError(
    'disk-full',
    'The disk is full. Free some space: nothing saved so far is lost, and what waits goes on by itself.',
  );
}
