import { stat } from 'node:fs/promises';
import { basename, resolve } from 'node:path';
import { LurnError } from '@lurn/core';
import { conform } from '@lurn/engine';
import { checkOutputs } from './files.js';
import type { Surroundings } from './surroundings.js';

export interface ConformArguments {
  readonly kind: 'conform';
  /** A folder or zip of pictures, or a clip. */
  readonly input: string;
  readonly out: string;
  /** Pictures a second; null where nothing is said. */
  readonly rate: number | null;
  readonly json: boolean;
}

/** Makes a clip of pictures, of an interlaced clip, or of one whose rate varies. */
export async function conformCommand(
  { input, out, rate }: ConformArguments,
  io: Surroundings,
): Promise<object> {
  const there = await stat(input).catch(() => null);
  if (!there) throw new LurnError('missing-file', `${input} is not there.`);
  await checkOutputs({ input: there.isDirectory() ? null : input }, { '--out': out });
  let last = 0;
  const { note } = await conform({
    ...{ path: resolve(input), name: basename(input), out: resolve(out), rate, signal: io.signal },
    onProgress: (frames) => {
      if (!io.progress || Date.now() - last < 200) return;
      last = Date.now();
      io.err(`\rConforming: ${frames} frames`);
    },
  });
  io.err(`lurn: note: ${note}\n`);
  return { out, note };
}
