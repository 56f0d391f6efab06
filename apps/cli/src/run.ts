import { LurnError } from '@lurn/core';
import { parseArguments, USAGE, UsageError } from './arguments.js';
import { steadyCommand } from './steady.js';
import type { Surroundings } from './surroundings.js';
import { trackCommand } from './track.js';

/** Runs `lurn` with these arguments. @returns the exit status: 0 done, 1 input at fault, 2 usage, 3 our fault. */
export async function run(argv: readonly string[], io: Surroundings): Promise<number> {
  try {
    const command = parseArguments(argv);
    if (command.kind === 'help') {
      io.out(USAGE);
      return 0;
    }
    const result =
      command.kind === 'track' ? await trackCommand(command, io) : await steadyCommand(command, io);
    if (command.json) io.out(`${JSON.stringify(result)}\n`);
    return 0;
  } catch (error) {
    if (error instanceof UsageError) {
      io.err(`lurn: ${error.message.replaceAll('\n', ' ')} Run "lurn --help".\n`);
      return 2;
    }
    if (error instanceof LurnError) {
      io.err(`lurn: ${error.message.replaceAll('\n', ' ')}\n`);
      return 1;
    }
    io.err(`lurn: a fault of the program: ${(error as Error)?.stack ?? String(error)}\n`);
    return 3;
  }
}
