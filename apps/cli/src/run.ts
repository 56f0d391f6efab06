import { resolve } from 'node:path';
import { LurnError } from '@lurn/core';
import { fieldsOf } from '@lurn/engine';
import { parseArguments, UsageError, type Arguments } from './arguments/index.js';
import { conformCommand } from './conform.js';
import { formatsCommand } from './formats.js';
import { handOverCommand } from './hand-over.js';
import { moversCommand, suggestCommand } from './scene.js';
import { shotCommand } from './shot.js';
import { steadyCommand } from './steady.js';
import type { Surroundings } from './surroundings.js';
import { trackCommand } from './track.js';
import { watchCommand } from './watch.js';

type Commands = {
  readonly [A in Arguments as A['kind']]: (args: A, io: Surroundings) => Promise<object> | object;
};

const COMMANDS: Commands = {
  track: trackCommand,
  movers: moversCommand,
  suggest: suggestCommand,
  steady: steadyCommand,
  shot: shotCommand,
  'hand-over': handOverCommand,
  conform: conformCommand,
  watch: watchCommand,
  formats: formatsCommand,
};

/** Frames woven of two fields are taken as they lie in the file, but the page's are put together: that has to be said. */
async function tellFields(clip: string, { err, signal }: Surroundings): Promise<void> {
  // What is wrong with the clip is told where it is opened.
  const fields = await fieldsOf(resolve(clip), clip, signal).catch(() => null);
  if (fields) err('lurn: note: the clip is interlaced: "lurn conform" makes whole pictures of it first.\n');
}

/** What went wrong and where, on one line. */
function faultLine(error: unknown): string {
  const text = error instanceof Error ? (error.stack ?? error.message) : String(error);
  return text
    .split('\n')
    .slice(0, 2)
    .map((line) => line.trim())
    .join(' ');
}

/** Runs `lurn` with these arguments. @returns the exit status: 0 done, 1 input at fault, 2 usage, 3 our fault, 130 stopped. */
export async function run(argv: readonly string[], io: Surroundings): Promise<number> {
  try {
    const command = parseArguments(argv);
    if (command.kind === 'help') {
      io.out(command.text);
      return 0;
    }
    if ('clip' in command) await tellFields(command.clip, io);
    const execute = COMMANDS[command.kind] as (args: Arguments, io: Surroundings) => Promise<object> | object;
    const result = await execute(command, io);
    if (command.json) io.out(`${JSON.stringify(result)}\n`);
    return 0;
  } catch (error) {
    if (error instanceof UsageError) {
      io.err(`lurn: ${error.message.replaceAll('\n', ' ')} Run "lurn --help".\n`);
      return 2;
    }
    if (error instanceof LurnError && error.code === 'stopped') {
      io.err('lurn: stopped.\n');
      return 130;
    }
    if (error instanceof LurnError) {
      io.err(`lurn: ${error.message.replaceAll('\n', ' ')}\n`);
      return 1;
    }
    if (error instanceof RangeError && /call stack/i.test(error.message)) {
      io.err('lurn: a file is nested too deeply, or has too many entries, to be read.\n');
      return 1;
    }
    io.err(`lurn: a fault of the program: ${faultLine(error)}\n`);
    return 3;
  }
}
