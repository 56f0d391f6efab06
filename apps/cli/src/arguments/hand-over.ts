import { DATA_CHOICES, DATA_EXPORTS, OUR_CHOICES, type DataChoices } from '@lurn/core/formats';
import { decimal, frameNumber, oneOf, UsageError, type Values } from './values.js';

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

export const HAND_OVER_NAMES = [
  ...(['as', 'out', 'origin', 'y', 'unit', 'first', 'time', 'numbers'] as const),
  ...(['in-origin', 'in-y', 'in-unit', 'in-first', 'size', 'fps'] as const),
] as const;
/** The largest picture's side, and rates, that are believed. */
const [MOST_SIDE, RATES] = [65536, [0.1, 10000] as const];

export function handOverArguments(data: string, values: Values): HandOverArguments {
  const { as, out, json = false } = values;
  if (as === undefined) throw new UsageError('hand-over needs --as NAME.');
  const format = DATA_EXPORTS.find((e) => e.id === as);
  if (!format) throw new UsageError(`--as ${as} is not one of ${DATA_EXPORTS.map((e) => e.id).join(', ')}.`);
  if (out === undefined) throw new UsageError('hand-over has nothing to write: give --out.');
  for (const name of ['origin', 'y', 'unit', 'first', 'time', 'numbers'] as const)
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

function choicesOf(values: Values, prefix: '' | 'in-'): DataChoices {
  const chosen = <T extends 'origin' | 'y' | 'unit'>(name: T): DataChoices[T] => {
    const value = values[`${prefix}${name}`];
    if (value === undefined) return OUR_CHOICES[name];
    return oneOf<string>(prefix + name, value, DATA_CHOICES[name]) as DataChoices[T];
  };
  const first = values[`${prefix}first`];
  const [time, numbers] = prefix ? [] : [values.time, values.numbers];
  return {
    ...{ origin: chosen('origin'), y: chosen('y'), unit: chosen('unit') },
    first: first === undefined ? OUR_CHOICES.first : frameNumber(`${prefix}first`, first),
    time: time === undefined ? OUR_CHOICES.time : oneOf('time', time, DATA_CHOICES.time),
    numbers: numbers === undefined ? OUR_CHOICES.numbers : oneOf('numbers', numbers, DATA_CHOICES.numbers),
  };
}
