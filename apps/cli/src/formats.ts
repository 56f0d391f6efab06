import { FORMATS } from '@lurn/engine';
import type { FormatsArguments } from './arguments.js';
import type { Surroundings } from './surroundings.js';

/** Lists what can be written. @returns the same for `--json` */
export function formatsCommand(args: FormatsArguments, io: Surroundings): object {
  const list = FORMATS.map(({ id, extension, name, depths, alpha, sound }) => ({
    ...{ id, extension, name, depths, alpha, sound },
  }));
  if (!args.json) for (const f of list) io.out(`${f.id.padEnd(18)} .${f.extension.padEnd(5)} ${f.name}\n`);
  return list;
}
