import { parseArgs } from 'node:util';
import { FORMATS, type Format } from '@lurn/engine';
import { LIMITS } from '@lurn/model';

/** Wrong usage: exit status 2. */
export class UsageError extends Error {}

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
  labels: { type: 'boolean' },
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
  numbers: { type: 'string' },
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

/** What was given of the options of all commands, as text. */
export type Values = ReturnType<typeof parsed>['values'];

/** @throws UsageError for what no command knows */
export function parsed(argv: readonly string[]) {
  try {
    return parseArgs({ args: [...argv], options: OPTIONS, allowPositionals: true, strict: true });
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0]}.`);
  }
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
