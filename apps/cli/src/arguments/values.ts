import { FORMATS, type Format } from '@lurn/engine';
import { LIMITS } from '@lurn/model';

/** Wrong usage: exit status 2. */
export class UsageError extends Error {}

/** Options with a value, by the value's name in help, and what they say. */
const TEXTS = {
  marks: ['MARKS.json', 'what is tracked: spots, surfaces, soft surfaces, ignore areas'],
  spots: ['MARKS.json', 'another name of --marks'],
  tracks: ['TRACKS.csv', 'what has been tracked'],
  corners: ['CORNERS.csv', "gets the four corners of every surface's quad"],
  mesh: ['MESH.json', 'gets the mesh of every soft surface'],
  masks: ['DIR', 'gets a folder a mover with a mask a frame: PNG, white where it is'],
  frame: ['N', 'the frame that marks are suggested on'],
  count: ['N', 'how many at the most'],
  hold: ['NAME', 'the mover or surface that is held; the surroundings or the spots when left out'],
  from: ['N', 'first frame'],
  to: ['N', 'last frame'],
  out: ['FILE', 'the file, or the folder, that is written'],
  goal: [
    'GOAL',
    'still: held as on the reference frame; calm: shake out, meant moves kept; lock: a subject held',
  ],
  ref: ['N', 'reference frame'],
  use: ['PARTS', 'only these parts of the motion are taken out: x,y,rotation,scale,perspective'],
  smooth: ['SECONDS', 'of calm: moves slower than this are kept (1)'],
  'max-zoom': ['RATIO', 'of calm: along the optimal path that needs no more zoom than that'],
  edges: ['EDGES', 'colour, stretched, mirrored, borrowed or transparent'],
  compare: ['WAY', 'shows the picture as shot in the same file: beside, above or wipe'],
  motion: ['MOTION.json', 'gets what was solved, frame by frame'],
  shot: ['SHOT', 'renders a shot as it was saved as a file: the zip, or SHOT.json with its assets beside it'],
  picture: ['PICTURE', 'of a shot: steadied or as-shot'],
  format: ['NAME', 'the kind of file: see "lurn formats"'],
  crf: ['N', 'how fine: less is finer, and larger'],
  rate: ['N', 'pictures a second (25)'],
  as: ['NAME', 'the kind of data file'],
  origin: ['WHERE', 'places are counted from top-left, bottom-left or centre'],
  y: ['WAY', 'y grows down or up'],
  unit: ['UNIT', 'px, or share of width and height'],
  first: ['N', "number of the clip's first frame"],
  time: ['AS', 'seconds or timecode'],
  numbers: ['AS', 'a motion as matrix, or as position, rotation and scale: ratio or percent'],
  'in-origin': ['WHERE', 'as --origin, of the file that is read'],
  'in-y': ['WAY', 'as --y, of the file that is read'],
  'in-unit': ['UNIT', 'as --unit, of the file that is read'],
  'in-first': ['N', 'as --first, of the file that is read'],
  size: ['WxH', 'of the picture, where the file does not tell it'],
  fps: ['N', 'frames a second, where the file does not tell them'],
} as const;

const FLAGS = {
  shape: "tells how a spot's patch turned and grew as well",
  auto: 'nothing is marked: the surroundings, or what --hold names, are held',
  'fit-zoom': 'zooms in as far as no edge shows',
  'row-by-row': 'puts pictures straight that are read out row by row',
  labels: 'of --compare: writes which is which',
  'layers-alone': 'of a shot: the layers over nothing',
  once: 'does what is there, and ends',
  json: 'one JSON object on stdout',
} as const;

export type OptionName = keyof typeof TEXTS | keyof typeof FLAGS;

/** What was given of the options of all commands, as text. */
export type Values = { [K in keyof typeof TEXTS]?: string } & { [K in keyof typeof FLAGS]?: boolean };

/** An option as help tells it: its flag, with what it takes, and what it says. */
export function flagOf(name: OptionName): [flag: string, about: string] {
  if (name in FLAGS) return [`--${name}`, FLAGS[name as keyof typeof FLAGS]];
  const [takes, about] = TEXTS[name as keyof typeof TEXTS];
  return [`--${name} <${takes}>`, about];
}

export function formatNamed(format: string | null = null): { format: string | null; named: Format | null } {
  const named = format === null ? null : FORMATS.find((f) => f.id === format);
  if (named === undefined)
    throw new UsageError(`--format ${format} is not one of ${FORMATS.map((f) => f.id).join(', ')}.`);
  return { format, named };
}

/** How fine a render is; null where nothing is said. */
export function crfOf({ crf }: Pick<Values, 'crf'>): number | null {
  return crf === undefined ? null : frameNumber('crf', crf, LIMITS.crf[1]);
}

export function frameNumber(name: string, text: string, most = Number.MAX_SAFE_INTEGER): number {
  const value = Number(text);
  if (!/^\d+$/.test(text) || value > most)
    throw new UsageError(`--${name} must be a whole number, not "${text}".`);
  return value;
}

export function decimal(name: string, text: string, [least, most]: readonly [number, number]): number {
  const value = Number(text);
  if (text.trim() === '' || !(value >= least && value <= most))
    throw new UsageError(`--${name} must be a number from ${least} to ${most}, not "${text}".`);
  return value;
}

export function oneOf<T extends string>(name: string, text: string, choices: readonly T[]): T {
  const found = choices.find((c) => c === text);
  if (!found) throw new UsageError(`--${name} ${text} is not one of ${choices.join(', ')}.`);
  return found;
}
