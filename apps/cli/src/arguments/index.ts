import { Command, CommanderError } from 'commander';
import { DATA_EXPORTS } from '@lurn/core/formats';
import { conformArguments, watchArguments } from './folders.js';
import { HAND_OVER_NAMES, handOverArguments } from './hand-over.js';
import { formatsArguments, moversArguments, suggestArguments, trackArguments } from './measuring.js';
import { steadyArguments, steadyOptions } from './steady.js';
import { flagOf, UsageError, type OptionName, type Values } from './values.js';

export type { HandOverArguments } from './hand-over.js';
export type { FormatsArguments, MoversArguments, SuggestArguments, TrackArguments } from './measuring.js';
export type { ShotArguments, SteadyArguments } from './steady.js';
export { UsageError } from './values.js';

/** A command: what it works on, what it does, and the options it has. Adding one is an entry here and one in `run.ts`. */
interface CommandSpec {
  /** As help names what it works on; left out where it works on nothing. */
  readonly subject?: string;
  readonly needs?: string;
  readonly about: string;
  readonly options: readonly OptionName[];
  /** Those that go together with what was given, where not all do. */
  readonly allowed?: (values: Values) => readonly OptionName[];
  readonly read: (subject: string, values: Values) => object;
}

const COMMANDS = {
  track: {
    ...{ subject: 'CLIP', needs: 'track needs a clip.' },
    about:
      'Tracks spots, flat and soft surfaces and writes their samples. Without --from and --to: forwards and backwards from the frame of each.',
    options: ['marks', 'spots', 'from', 'to', 'out', 'corners', 'mesh', 'shape', 'json'],
    read: trackArguments,
  },
  suggest: {
    ...{ subject: 'CLIP', needs: 'suggest needs a clip.' },
    about: 'Marks on the surroundings that hold through the clip: each has been followed.',
    options: ['frame', 'count', 'out', 'json'],
    read: suggestArguments,
  },
  movers: {
    ...{ subject: 'CLIP', needs: 'movers needs a clip.' },
    about: 'What moves as a whole in the clip, how, and where it is cut.',
    options: ['masks', 'from', 'to', 'out', 'json'],
    read: moversArguments,
  },
  steady: {
    ...{ subject: 'CLIP', needs: 'steady needs a clip.' },
    about: `Solves the motion of what is marked (--marks, --tracks), or of the whole picture (--auto), writes it and renders the steadied picture. Without --fit-zoom the size stays as it is. With --marks what --hold names is a flat or soft surface; without it the spots are held, or the first surface where there are none. A soft surface is laid flat as it is on the reference frame, or to the rectangle that its mark names: "laid": { "corners": [[x, y] x 4], "straight": true or false }. With --shot a shot that was saved as a file is rendered, layers and all: steadied, or as it was shot with the layers carried back.`,
    options: [
      ...(['marks', 'spots', 'tracks', 'auto', 'hold', 'goal', 'ref', 'use', 'smooth', 'max-zoom'] as const),
      ...(['from', 'to', 'fit-zoom', 'row-by-row', 'edges', 'motion', 'out', 'format', 'compare'] as const),
      ...(['labels', 'shot', 'picture', 'layers-alone', 'crf', 'json'] as const),
    ],
    allowed: steadyOptions,
    read: steadyArguments,
  },
  watch: {
    ...{ subject: 'FOLDER', needs: 'watch needs a folder.' },
    about:
      'Steadies and renders every clip that appears in a folder, by its surroundings, with the zoom that hides the edges, and writes what came of each into report.csv.',
    options: ['out', 'goal', 'format', 'crf', 'once', 'json'],
    read: watchArguments,
  },
  conform: {
    ...{ subject: 'CLIP', needs: 'conform needs a clip, or a folder or zip of pictures.' },
    about:
      'Makes a clip without loss: of pictures in a folder or zip (PNG, JPEG, TIFF or EXR, with a sound file if there is one) at --rate a second; of an interlaced clip, whose fields are put together; or of any other at a constant --rate.',
    options: ['out', 'rate', 'json'],
    read: conformArguments,
  },
  formats: {
    about: 'The kinds of file that --format may name.',
    options: ['json'],
    read: formatsArguments,
  },
  'hand-over': {
    ...{ subject: 'DATA', needs: 'hand-over needs MOTION.json, CORNERS.csv, TRACKS.csv or MESH.json.' },
    about: `Writes motion, corners, spots, movers or meshes (MOTION.json, CORNERS.csv, TRACKS.csv, MOVERS.json, MESH.json) as another program wants them: --as ${DATA_EXPORTS.map((e) => e.id).join(', ')}. --origin, --y, --unit, --first, --time: how that program counts, where the format leaves it open. Several files go into a folder, or into FILE.zip.`,
    options: [...HAND_OVER_NAMES, 'json'],
    read: handOverArguments,
  },
} as const satisfies Readonly<Record<string, CommandSpec>>;

type Kind = keyof typeof COMMANDS;

/** What a command was told. */
export type Arguments = ReturnType<(typeof COMMANDS)[Kind]['read']>;

/** @throws UsageError */
export function parseArguments(
  argv: readonly string[],
): Arguments | { readonly kind: 'help'; readonly text: string } {
  let text = '';
  let read: Arguments | null = null;
  const program = new Command('lurn')
    .description('Tracks, solves and steadies clips without a browser.')
    .addHelpText(
      'after',
      '\nExit status: 0 done, 1 the input is at fault, 2 wrong usage, 3 a fault of the program, 130 stopped.',
    )
    .helpCommand(false);
  // What every command takes over from the program has to be said before there are any.
  program.exitOverride().configureOutput({ writeOut: (t) => (text += t), writeErr: () => undefined });
  for (const [kind, spec] of Object.entries(COMMANDS) as [Kind, CommandSpec][]) {
    const command = program.command(kind).description(spec.about).allowExcessArguments(false);
    command.summary(`${spec.about.split(/[.:] /)[0].replace(/\.$/, '')}.`);
    if (spec.subject) command.argument(`<${spec.subject}>`);
    for (const name of spec.options) command.option(...flagOf(name));
    command.action(() => {
      const values = given(command);
      const allowed = spec.allowed?.(values) ?? spec.options;
      const odd = (Object.keys(values) as OptionName[]).find((name) => !allowed.includes(name));
      if (odd)
        throw new UsageError(
          `--${odd} does not go with ${values.shot ? '--shot: the shot says that itself' : kind}.`,
        );
      read = spec.read(command.args[0] ?? '', values) as Arguments;
    });
  }
  try {
    if (argv.length === 0) program.help();
    program.parse(argv, { from: 'user' });
  } catch (error) {
    if (!(error instanceof CommanderError)) throw error;
    if (error.exitCode === 0 || argv.length === 0) return { kind: 'help', text };
    throw new UsageError(saidOf(error, argv[0]));
  }
  return read!;
}

/** Options as they were given, by their names. */
function given(command: Command): Values {
  const values = command.opts<Record<string, unknown>>();
  const named = command.options.map((o) => [o.long!.slice(2), values[o.attributeName()]] as const);
  return Object.fromEntries(named.filter(([, value]) => value !== undefined)) as Values;
}

/** What was wrong with how it was called, as a sentence. */
function saidOf({ code, message }: CommanderError, kind: string): string {
  const named = /'([^']*)'/.exec(message)?.[1] ?? '';
  if (code === 'commander.unknownCommand')
    return `"${named}" is not a command; use ${Object.keys(COMMANDS).join(', ')}.`;
  if (code === 'commander.unknownOption') return `${kind} has no option ${named}.`;
  const spec: CommandSpec | undefined = COMMANDS[kind as Kind];
  if (code === 'commander.missingArgument' && spec?.needs) return spec.needs;
  if (code === 'commander.excessArguments') return `${kind} was given an argument too many.`;
  return `${message.replace(/^error: /, '').replace(/\.$/, '')}.`;
}
