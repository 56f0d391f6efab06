import { parseArgs } from 'node:util';
import {
  DATA_CHOICES,
  DATA_EXPORTS,
  OUR_CHOICES,
  type Amounts,
  type DataChoices,
  type EdgeMode,
  type Goal,
} from '@lurn/core';
import { FORMATS, type Compare, type Format } from '@lurn/engine';
import { CHOICES, LIMITS } from '@lurn/model';
import type { ConformArguments } from './conform.js';
import type { WatchArguments } from './watch.js';

export const USAGE = `lurn track CLIP --marks MARKS.json [--from N] [--to N] [--out TRACKS.csv] [--corners CORNERS.csv] [--mesh MESH.json] [--shape] [--json]
    Tracks spots, flat and soft surfaces and writes their samples. Without --from and --to: forwards and backwards from the
    frame of each. With --shape, how a spot's patch turned and grew as well. --corners gets the four corners of every
    surface's quad, --mesh the mesh of every soft surface. --spots is another name of --marks.

lurn suggest CLIP [--frame N] [--count N] [--out MARKS.json] [--json]
    Marks on the surroundings that hold through the clip: each has been followed.

lurn movers CLIP [--out MOVERS.json] [--json]
    What moves as a whole in the clip, how, and where it is cut.

lurn steady CLIP (--marks MARKS.json | --tracks TRACKS.csv | --auto) [--hold NAME] --goal still|calm|lock [--ref N]
            [--use x,y,rotation,scale,perspective] [--smooth SECONDS] [--max-zoom RATIO] [--from N] [--to N] [--fit-zoom]
            [--row-by-row]
            [--edges colour|stretched|mirrored|borrowed|transparent] [--motion MOTION.json]
            [--out STEADY.mp4 [--format NAME] [--compare beside|above|wipe]] [--crf N] [--json]
    With --marks what --hold names is a flat or soft surface; without it the spots are held, or the first surface where
    there are none. A soft surface is laid flat as it is on the reference
    frame, or to the rectangle that its mark names: "laid": { "corners": [[x, y] x 4], "straight": true or false }.
    With --use, only these parts of its motion are taken out. --auto: nothing is marked; the surroundings are held, or
    the mover that --hold names. With --row-by-row
    pictures that are read out row by row are put straight, where it is found how long that takes.
    Solves the motion, writes it and renders the steadied picture. Without --fit-zoom the size stays as it is.
    still: held as on the reference frame. lock: the tracked subject held where it is on the reference frame.
    calm: moves slower than --smooth (seconds, 1 when left out) are kept; with --max-zoom along the optimal path
    that needs no more zoom than that. --compare shows the picture as shot in the same file.

lurn steady CLIP --shot SHOT [--picture steadied|as-shot] [--layers-alone] --out FILE [--format NAME] [--crf N] [--json]
    Renders a shot as it was saved as a file (the zip, or SHOT.json with its assets beside it), layers and all: steadied,
    or as it was shot with the layers carried back.

lurn watch FOLDER --out FOLDER [--goal calm|still] [--format NAME] [--crf N] [--once] [--json]
    Steadies and renders every clip that appears in a folder, by its surroundings, with the zoom that hides the edges, and
    writes what came of each into report.csv. With --once it does what is there, and ends.

lurn conform (CLIP | FOLDER | FILE.zip) --out CLIP.mkv [--rate N] [--json]
    Makes a clip without loss: of pictures (PNG, JPEG, TIFF or EXR, with a sound file if there is one) at --rate a second,
    25 when left out; of an interlaced clip, whose fields are put together; or of any other at a constant --rate.

lurn formats [--json]
    The kinds of file that --format may name.

lurn hand-over (MOTION.json | CORNERS.csv | TRACKS.csv) --as NAME --out FILE [--origin top-left|bottom-left|centre]
            [--y down|up] [--unit px|share] [--first N] [--time seconds|timecode] [--size WxH] [--fps N]
            [--in-origin ...] [--in-y ...] [--in-unit ...] [--in-first N] [--json]
    Writes motion, corners or spots as another program wants them: --as ${DATA_EXPORTS.map((e) => e.id).join(', ')}.
    --origin, --y, --unit, --first, --time: how that program counts, where the format leaves it open; --in-origin and so
    on: how the file that is read counts. --size and --fps where a table does not tell them. ST maps go into a folder, or
    into FILE.zip.

Exit status: 0 done, 1 the input is at fault, 2 wrong usage, 3 a fault of the program, 130 stopped.
`;

/** Wrong usage: exit status 2. */
export class UsageError extends Error {}

export interface TrackArguments {
  readonly kind: 'track';
  readonly clip: string;
  readonly marks: string;
  readonly shape: boolean;
  /** Where the corners of surfaces are written. */
  readonly corners: string | null;
  /** Where the meshes of soft surfaces are written. */
  readonly mesh: string | null;
  readonly from: number | null;
  readonly to: number | null;
  readonly out: string | null;
  readonly json: boolean;
}

export interface MoversArguments {
  readonly kind: 'movers';
  readonly clip: string;
  readonly out: string | null;
  readonly json: boolean;
}

export interface SuggestArguments extends Omit<MoversArguments, 'kind'> {
  readonly kind: 'suggest';
  readonly frame: number;
  readonly count: number;
}

export interface FormatsArguments {
  readonly kind: 'formats';
  readonly json: boolean;
}

/** Measured or solved motion, for another program. */
export interface HandOverArguments {
  readonly kind: 'hand-over';
  readonly data: string;
  readonly as: string;
  readonly out: string;
  readonly choices: DataChoices;
  /** How the file that is read counts. */
  readonly own: DataChoices;
  readonly size: { readonly width: number; readonly height: number } | null;
  readonly fps: number | null;
  readonly json: boolean;
}

/** A shot that was saved as a file, rendered. */
export interface ShotArguments {
  readonly kind: 'shot';
  readonly clip: string;
  readonly shot: string;
  /** null: as the shot has it. */
  readonly picture: 'steadied' | 'as-shot' | null;
  readonly alone: boolean;
  readonly out: string;
  readonly format: string | null;
  readonly crf: number | null;
  readonly json: boolean;
}

export interface SteadyArguments {
  readonly kind: 'steady';
  readonly clip: string;
  readonly marks: string | null;
  readonly tracks: string | null;
  /** Nothing is marked: the whole picture tells. */
  readonly auto: boolean;
  /** The name of the mover that is held; null for the surroundings. */
  readonly hold: string | null;
  /** Puts rows straight, where it is known how they lie. */
  readonly rowByRow: boolean;
  readonly ref: number;
  readonly from: number | null;
  readonly to: number | null;
  readonly goal: Goal;
  readonly use: Amounts;
  /** Takes out how a surface leans as well. */
  readonly perspective: boolean;
  /** Seconds. */
  readonly smooth: number;
  /** null: Calm by the Gaussian. */
  readonly maxZoom: number | null;
  readonly edges: EdgeMode;
  readonly format: string | null;
  readonly compare: Compare | null;
  readonly fitZoom: boolean;
  readonly motion: string | null;
  readonly out: string | null;
  readonly crf: number;
  readonly json: boolean;
}

const OPTIONS = {
  marks: { type: 'string' },
  spots: { type: 'string' },
  shape: { type: 'boolean' },
  format: { type: 'string' },
  frame: { type: 'string' },
  count: { type: 'string' },
  hold: { type: 'string' },
  corners: { type: 'string' },
  mesh: { type: 'string' },
  tracks: { type: 'string' },
  from: { type: 'string' },
  to: { type: 'string' },
  out: { type: 'string' },
  goal: { type: 'string' },
  auto: { type: 'boolean' },
  ref: { type: 'string' },
  use: { type: 'string' },
  smooth: { type: 'string' },
  'max-zoom': { type: 'string' },
  edges: { type: 'string' },
  compare: { type: 'string' },
  'fit-zoom': { type: 'boolean' },
  'row-by-row': { type: 'boolean' },
  motion: { type: 'string' },
  shot: { type: 'string' },
  picture: { type: 'string' },
  'layers-alone': { type: 'boolean' },
  crf: { type: 'string' },
  as: { type: 'string' },
  origin: { type: 'string' },
  y: { type: 'string' },
  unit: { type: 'string' },
  first: { type: 'string' },
  time: { type: 'string' },
  'in-origin': { type: 'string' },
  'in-y': { type: 'string' },
  'in-unit': { type: 'string' },
  'in-first': { type: 'string' },
  size: { type: 'string' },
  fps: { type: 'string' },
  once: { type: 'boolean' },
  rate: { type: 'string' },
  json: { type: 'boolean' },
  help: { type: 'boolean', short: 'h' },
} as const;
const TRACK_OPTIONS = ['marks', 'spots', 'shape', 'from', 'to', 'out', 'json', 'corners', 'mesh'];
const SHOT_OPTIONS = ['shot', 'picture', 'layers-alone', 'out', 'format', 'crf', 'json'];
const STEADY_OPTIONS = [
  ...['marks', 'spots', 'tracks', 'auto', 'hold', 'goal', 'ref', 'use', 'smooth', 'max-zoom', 'from', 'to'],
  ...['fit-zoom', 'row-by-row', 'edges', 'compare', 'motion', 'out', 'format', 'shot', 'crf', 'json'],
];
const COMMANDS = ['track', 'suggest', 'movers', 'steady', 'watch', 'conform', 'hand-over'] as const;
const isCommand = (kind: string): kind is (typeof COMMANDS)[number] => COMMANDS.some((c) => c === kind);
const WATCH_OPTIONS = ['out', 'goal', 'format', 'crf', 'once', 'json'];
const CONFORM_OPTIONS = ['out', 'rate', 'json'];
const MOVERS_OPTIONS = ['out', 'json'];
const SUGGEST_OPTIONS = ['frame', 'count', 'out', 'json'];
const COMPONENTS = ['x', 'y', 'rotation', 'scale', 'perspective'];
/** So many marks are suggested until told otherwise, and at the most. */
const [SUGGESTED, MOST_SUGGESTED] = [4, 200];

/** @throws UsageError */
export function parseArguments(
  argv: readonly string[],
):
  | TrackArguments
  | SteadyArguments
  | ShotArguments
  | FormatsArguments
  | MoversArguments
  | SuggestArguments
  | HandOverArguments
  | WatchArguments
  | ConformArguments
  | { kind: 'help' } {
  let parsed;
  try {
    parsed = parseArgs({ args: [...argv], options: OPTIONS, allowPositionals: true, strict: true });
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0]}.`);
  }
  const { values, positionals } = parsed;
  if (values.help || argv.length === 0) return { kind: 'help' };
  const [kind, clip, ...rest] = positionals;
  if (kind === 'formats') {
    const more = clip ?? Object.keys(values).find((name) => name !== 'json');
    if (more) throw new UsageError(`formats takes nothing but --json, not "${more}".`);
    return { kind, json: values.json ?? false };
  }
  if (!isCommand(kind)) {
    throw new UsageError(
      `"${kind}" is not a command; use ${COMMANDS.slice(0, -1).join(', ')}, formats or hand-over.`,
    );
  }
  if (!clip)
    throw new UsageError(
      kind === 'hand-over'
        ? 'hand-over needs MOTION.json, CORNERS.csv or TRACKS.csv.'
        : `${kind} needs a ${kind === 'watch' ? 'folder' : 'clip'}.`,
    );
  if (rest.length > 0) throw new UsageError(`"${rest[0]}" is one argument too many.`);
  const allowed = {
    ...{
      track: TRACK_OPTIONS,
      steady: values.shot ? SHOT_OPTIONS : STEADY_OPTIONS,
      movers: MOVERS_OPTIONS,
      suggest: SUGGEST_OPTIONS,
      watch: WATCH_OPTIONS,
      conform: CONFORM_OPTIONS,
      'hand-over': [...HAND_OVER_NAMES, 'json'],
    },
  }[kind];
  for (const name of Object.keys(values)) {
    if (allowed.includes(name)) continue;
    throw new UsageError(
      values.shot && kind === 'steady'
        ? `--${name} does not go with --shot: the shot says that itself.`
        : `${kind} has no option --${name}.`,
    );
  }
  if (kind === 'hand-over') return handOverArguments(clip, values);
  if (kind === 'watch') return watchArguments(clip, values);
  if (kind === 'conform') return conformArguments(clip, values);
  if (values.marks && values.spots)
    throw new UsageError('--spots is another name of --marks: give one of them.');
  const marks = values.marks ?? values.spots;
  const common = {
    clip,
    from: values.from === undefined ? null : frameNumber('from', values.from),
    to: values.to === undefined ? null : frameNumber('to', values.to),
    out: values.out ?? null,
    json: values.json ?? false,
  };
  if (kind === 'track') {
    if (!marks) throw new UsageError('track needs --marks MARKS.json.');
    const { shape = false, corners = null, mesh = null } = values;
    return { kind, ...common, marks, shape, corners, mesh };
  }
  if (kind === 'movers') return { kind, clip, out: common.out, json: common.json };
  if (kind === 'suggest') {
    const frame = values.frame === undefined ? 0 : frameNumber('frame', values.frame);
    const count = values.count === undefined ? SUGGESTED : frameNumber('count', values.count, MOST_SUGGESTED);
    if (count === 0) throw new UsageError('--count must be 1 or more.');
    return { kind, clip, frame, count, out: common.out, json: common.json };
  }
  if (values.shot) return shotArguments(values.shot, common, values);
  if (!values.goal) throw new UsageError('steady needs --goal.');
  const goal = oneOf('goal', values.goal, CHOICES.goal);
  for (const name of ['smooth', 'max-zoom'] as const) {
    if (values[name] !== undefined && goal !== 'calm')
      throw new UsageError(`--${name} belongs to --goal calm.`);
  }
  const edges = oneOf('edges', values.edges ?? 'colour', CHOICES.edges);
  const { format, named } = formatNamed(values.format);
  if (edges === 'transparent' && !named?.alpha) {
    throw new UsageError('--edges transparent needs a --format with alpha: see "lurn formats".');
  }
  if (format && !values.out) throw new UsageError('--format belongs to --out.');
  if (values.compare && !values.out) throw new UsageError('--compare belongs to --out.');
  const auto = values.auto ?? false;
  if ([marks, values.tracks, auto || undefined].filter((v) => v !== undefined).length !== 1)
    throw new UsageError('steady needs one of --marks, --tracks, --auto and --shot.');
  if (values.hold !== undefined && values.tracks !== undefined)
    throw new UsageError('--hold belongs to --auto or --marks.');
  if (values['row-by-row'] && !auto) throw new UsageError('--row-by-row belongs to --auto.');

  const steady: SteadyArguments = {
    kind,
    ...common,
    marks: marks ?? null,
    tracks: values.tracks ?? null,
    auto,
    hold: values.hold ?? null,
    rowByRow: values['row-by-row'] ?? false,
    ref: values.ref === undefined ? 0 : frameNumber('ref', values.ref),
    goal,
    ...components(values.use),
    smooth: values.smooth === undefined ? 1 : decimal('smooth', values.smooth, LIMITS.smoothing),
    maxZoom:
      values['max-zoom'] === undefined ? null : decimal('max-zoom', values['max-zoom'], LIMITS.maxZoom),
    edges,
    format,
    compare: values.compare === undefined ? null : oneOf('compare', values.compare, CHOICES.compare),
    fitZoom: values['fit-zoom'] ?? false,
    motion: values.motion ?? null,
    crf: values.crf === undefined ? 18 : frameNumber('crf', values.crf, LIMITS.crf[1]),
  };
  if (!steady.out && !steady.motion && !steady.json)
    throw new UsageError('steady has nothing to write: give --out, --motion or --json.');
  return steady;
}

function formatNamed(format: string | null = null): { format: string | null; named: Format | null } {
  const named = format === null ? null : FORMATS.find((f) => f.id === format);
  if (named === undefined)
    throw new UsageError(`--format ${format} is not one of ${FORMATS.map((f) => f.id).join(', ')}.`);
  return { format, named };
}

function shotArguments(
  shot: string,
  { clip, out, json }: { readonly clip: string; readonly out: string | null; readonly json: boolean },
  values: { readonly [name in 'picture' | 'format' | 'crf']?: string } & {
    readonly 'layers-alone'?: boolean;
  },
): ShotArguments {
  if (out === null) throw new UsageError('steady --shot has nothing to write: give --out.');
  const alone = values['layers-alone'] ?? false;
  const { format, named } = formatNamed(values.format);
  if (alone && named && !named.alpha)
    throw new UsageError('--layers-alone needs a --format with alpha: see "lurn formats".');
  return {
    ...{ kind: 'shot', clip, shot, alone, out, format, json },
    picture: values.picture === undefined ? null : oneOf('picture', values.picture, CHOICES.picture),
    crf: values.crf === undefined ? null : frameNumber('crf', values.crf, LIMITS.crf[1]),
  };
}

type HandOverValues = Readonly<Partial<Record<(typeof HAND_OVER_NAMES)[number], string>>> & {
  readonly json?: boolean;
};
const HAND_OVER_NAMES = [
  ...([
    'as',
    'out',
    'origin',
    'y',
    'unit',
    'first',
    'time',
    'in-origin',
    'in-y',
    'in-unit',
    'in-first',
  ] as const),
  ...(['size', 'fps'] as const),
] as const;
/** The largest picture's side, and rates, that are believed. */
const [MOST_SIDE, RATES] = [65536, [0.1, 10000] as const];

function handOverArguments(data: string, values: HandOverValues): HandOverArguments {
  const { as, out, json = false } = values;
  if (as === undefined) throw new UsageError('hand-over needs --as NAME.');
  const format = DATA_EXPORTS.find((e) => e.id === as);
  if (!format) throw new UsageError(`--as ${as} is not one of ${DATA_EXPORTS.map((e) => e.id).join(', ')}.`);
  if (out === undefined) throw new UsageError('hand-over has nothing to write: give --out.');
  for (const name of ['origin', 'y', 'unit', 'first', 'time'] as const)
    if (values[name] !== undefined && !format.heeds.includes(name))
      throw new UsageError(`--${name} means nothing to ${as}, which lays that down itself.`);
  const size = values.size === undefined ? null : /^(\d{1,5})x(\d{1,5})$/.exec(values.size);
  const [width, height] = size ? [Number(size[1]), Number(size[2])] : [0, 0];
  if (values.size !== undefined && !(width > 0 && height > 0 && Math.max(width, height) <= MOST_SIDE))
    throw new UsageError(`--size must be as 1920x1080, not "${values.size}".`);
  return {
    ...{ kind: 'hand-over', data, as, out, json },
    choices: choicesOf(values, ''),
    own: choicesOf(values, 'in-'),
    size: size && { width, height },
    fps: values.fps === undefined ? null : decimal('fps', values.fps, RATES),
  };
}

function choicesOf(values: HandOverValues, prefix: '' | 'in-'): DataChoices {
  const chosen = <T extends 'origin' | 'y' | 'unit'>(name: T): DataChoices[T] => {
    const value = values[`${prefix}${name}`];
    if (value === undefined) return OUR_CHOICES[name];
    return oneOf<string>(prefix + name, value, DATA_CHOICES[name]) as DataChoices[T];
  };
  const first = values[`${prefix}first`];
  const time = prefix ? undefined : values.time;
  return {
    ...{ origin: chosen('origin'), y: chosen('y'), unit: chosen('unit') },
    first: first === undefined ? OUR_CHOICES.first : frameNumber(`${prefix}first`, first),
    time: time === undefined ? OUR_CHOICES.time : oneOf('time', time, DATA_CHOICES.time),
  };
}

function frameNumber(name: string, text: string, most = Number.MAX_SAFE_INTEGER): number {
  const value = Number(text);
  if (!/^\d+$/.test(text) || value > most)
    throw new UsageError(`--${name} must be a whole number, not "${text}".`);
  return value;
}

function decimal(name: string, text: string, [least, most]: readonly [number, number]): number {
  const value = Number(text);
  if (text.trim() === '' || !(value >= least && value <= most))
    throw new UsageError(`--${name} must be a number from ${least} to ${most}, not "${text}".`);
  return value;
}

function oneOf<T extends string>(name: string, text: string, choices: readonly T[]): T {
  const found = choices.find((c) => c === text);
  if (!found) throw new UsageError(`--${name} ${text} is not one of ${choices.join(', ')}.`);
  return found;
}

function components(text: string | undefined): Pick<SteadyArguments, 'use' | 'perspective'> {
  const names = text === undefined ? COMPONENTS : text.split(',').map((name) => name.trim());
  for (const name of names) {
    if (!COMPONENTS.includes(name))
      throw new UsageError(`--use takes x, y, rotation, scale and perspective, not "${name}".`);
  }
  const amount = (name: string) => (names.includes(name) ? 1 : 0);
  const use = { x: amount('x'), y: amount('y'), rotation: amount('rotation'), scale: amount('scale') };
  return { use, perspective: names.includes('perspective') };
}

function watchArguments(
  folder: string,
  values: Partial<Record<'out' | 'goal' | 'format' | 'crf', string>> & { once?: boolean; json?: boolean },
): WatchArguments {
  if (!values.out) throw new UsageError('watch needs --out FOLDER.');
  const { format } = formatNamed(values.format);
  return {
    ...{
      kind: 'watch',
      folder,
      out: values.out,
      goal: oneOf('goal', values.goal ?? 'calm', ['calm', 'still'] as const),
    },
    ...{
      format: format ?? 'h264-mp4',
      crf: values.crf === undefined ? 18 : frameNumber('crf', values.crf, LIMITS.crf[1]),
      once: values.once ?? false,
      json: values.json ?? false,
    },
  };
}

function conformArguments(
  input: string,
  values: { readonly out?: string; readonly rate?: string; readonly json?: boolean },
): ConformArguments {
  if (!values.out) throw new UsageError('conform needs --out CLIP.mkv.');
  if (!/\.mkv$/i.test(values.out))
    throw new UsageError('--out of conform is a Matroska file: its name ends in .mkv.');
  const rate = values.rate === undefined ? null : Number(values.rate);
  if (rate !== null && !(rate >= 1 && rate <= 240))
    throw new UsageError(`--rate is 1 to 240 pictures a second, not "${values.rate}".`);
  return { kind: 'conform', input, out: values.out, rate, json: values.json ?? false };
}
