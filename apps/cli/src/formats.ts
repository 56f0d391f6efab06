import { formatsAtHand } from '@lurn/engine';
import type { FormatsArguments } from './arguments/index.js';
import type { Surroundings } from './surroundings.js';

/** Lists what can be written here. @returns the same for `--json` */
export async function formatsCommand(args: FormatsArguments, io: Surroundings): Promise<object> {
  const { offered, missing } = await formatsAtHand();
  const list = offered.map(({ id, extension, name, depths, alpha, sound }) => ({
    ...{ id, extension, name, depths, alpha, sound: sound !== null },
  }));
  if (!args.json) {
    for (const f of offered)
      io.out(
        `${f.id.padEnd(18)} .${f.extension.padEnd(5)} ${f.name}: ${f.use[0].toLowerCase()}${f.use.slice(1)}\n`,
      );
    for (const { format, why } of missing) io.out(`${format.id.padEnd(18)} not here: ${why}\n`);
  }
  return list;
}
