import type { ConformArguments } from '../conform.js';
import { crfOf, formatNamed, oneOf, UsageError, type Values } from './values.js';

export interface WatchArguments {
  readonly kind: 'watch';
  /** The folder in which clips appear. */
  readonly folder: string;
  /** Where the files go, and the report. */
  readonly out: string;
  readonly goal: 'still' | 'calm';
  /** The id of a format. */
  readonly format: string;
  readonly crf: number;
  /** Does what is there, and ends. */
  readonly once: boolean;
  readonly json: boolean;
}

const [USUAL_FORMAT, USUAL_CRF, RATES] = ['h264-mp4', 18, [1, 240]] as const;

export function watchArguments(folder: string, values: Values): WatchArguments {
  const { out, goal = 'calm', once = false, json = false } = values;
  if (!out) throw new UsageError('watch needs --out FOLDER.');
  const { format } = formatNamed(values.format);
  return {
    ...{ kind: 'watch', folder, out, once, json, goal: oneOf('goal', goal, ['calm', 'still'] as const) },
    ...{ format: format ?? USUAL_FORMAT, crf: crfOf(values) ?? USUAL_CRF },
  };
}

export function conformArguments(input: string, { out, json = false, ...values }: Values): ConformArguments {
  if (!out) throw new UsageError('conform needs --out CLIP.mkv.');
  if (!/\.mkv$/i.test(out))
    throw new UsageError('--out of conform is a Matroska file: its name ends in .mkv.');
  const rate = values.rate === undefined ? null : Number(values.rate);
  if (rate !== null && !(rate >= RATES[0] && rate <= RATES[1]))
    throw new UsageError(`--rate is ${RATES.join(' to ')} pictures a second, not "${values.rate}".`);
  return { kind: 'conform', input, out, rate, json };
}
