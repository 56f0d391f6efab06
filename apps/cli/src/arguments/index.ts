import { conformArguments, watchArguments } from './folders.js';
import { HAND_OVER_NAMES, handOverArguments } from './hand-over.js';
import { moversArguments, suggestArguments, trackArguments, type FormatsArguments } from './measuring.js';
import { steadyArguments, steadyOptions } from './steady.js';
import { parsed, UsageError, type Values } from './values.js';

export type { HandOverArguments } from './hand-over.js';
export type { FormatsArguments, MoversArguments, SuggestArguments, TrackArguments } from './measuring.js';
export type { ShotArguments, SteadyArguments } from './steady.js';
export { USAGE } from './usage.js';
export { UsageError } from './values.js';

/** A command that works on something: what that is, which options it has, and what they say. Adding one is a line here. */
interface Command {
  readonly needs: string;
  readonly options: (values: Values) => readonly string[];
  readonly read: (subject: string, values: Values) => object;
}

const COMMANDS = {
  track: {
    needs: 'track needs a clip.',
    options: () => ['marks', 'spots', 'shape', 'from', 'to', 'out', 'json', 'corners', 'mesh'],
    read: trackArguments,
  },
  suggest: {
    needs: 'suggest needs a clip.',
    options: () => ['frame', 'count', 'out', 'json'],
    read: suggestArguments,
  },
  movers: { needs: 'movers needs a clip.', options: () => ['out', 'json'], read: moversArguments },
  steady: { needs: 'steady needs a clip.', options: steadyOptions, read: steadyArguments },
  watch: {
    needs: 'watch needs a folder.',
    options: () => ['out', 'goal', 'format', 'crf', 'once', 'json'],
    read: watchArguments,
  },
  conform: {
    needs: 'conform needs a clip, or a folder or zip of pictures.',
    options: () => ['out', 'rate', 'json'],
    read: conformArguments,
  },
  'hand-over': {
    needs: 'hand-over needs MOTION.json, CORNERS.csv, TRACKS.csv or MESH.json.',
    options: () => [...HAND_OVER_NAMES, 'json'],
    read: handOverArguments,
  },
} as const satisfies Readonly<Record<string, Command>>;

type Kind = keyof typeof COMMANDS;
const isCommand = (kind: string | undefined): kind is Kind =>
  kind !== undefined && Object.hasOwn(COMMANDS, kind);

/** @throws UsageError */
export function parseArguments(
  argv: readonly string[],
): ReturnType<(typeof COMMANDS)[Kind]['read']> | FormatsArguments | { readonly kind: 'help' } {
  const { values, positionals } = parsed(argv);
  if (values.help || argv.length === 0) return { kind: 'help' };
  const [kind, subject, ...rest] = positionals;
  if (kind === 'formats') {
    const more = subject ?? Object.keys(values).find((name) => name !== 'json');
    if (more) throw new UsageError(`formats takes nothing but --json, not "${more}".`);
    return { kind, json: values.json ?? false };
  }
  if (!isCommand(kind)) {
    const names = Object.keys(COMMANDS).filter((name) => name !== 'hand-over');
    throw new UsageError(`"${kind}" is not a command; use ${names.join(', ')}, formats or hand-over.`);
  }
  const command: Command = COMMANDS[kind];
  if (!subject) throw new UsageError(command.needs);
  if (rest.length > 0) throw new UsageError(`"${rest[0]}" is one argument too many.`);
  const allowed = command.options(values);
  for (const name of Object.keys(values)) {
    if (allowed.includes(name)) continue;
    throw new UsageError(
      values.shot && kind === 'steady'
        ? `--${name} does not go with --shot: the shot says that itself.`
        : `${kind} has no option --${name}.`,
    );
  }
  return COMMANDS[kind].read(subject, values);
}
