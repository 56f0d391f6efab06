import { LurnError } from '@lurn/core';

export function badMarks(why: string): LurnError {
  return new LurnError('bad-spots', `The marks file cannot be used: ${why}.`);
}
