import { commonOf, marksOf } from './common.js';
import { frameNumber, UsageError, type Values } from './values.js';

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
  /** The folder that gets masks, and of which frames. */
  readonly masks: string | null;
  readonly from: number | null;
  readonly to: number | null;
  readonly out: string | null;
  readonly json: boolean;
}

export interface SuggestArguments extends Pick<MoversArguments, 'clip' | 'out' | 'json'> {
  readonly kind: 'suggest';
  readonly frame: number;
  readonly count: number;
}

export interface FormatsArguments {
  readonly kind: 'formats';
  readonly json: boolean;
}

export function formatsArguments(_subject: string, { json = false }: Values): FormatsArguments {
  return { kind: 'formats', json };
}

/** So many marks are suggested until told otherwise, and at the most. */
const [SUGGESTED, MOST_SUGGESTED] = [4, 200];

export function trackArguments(clip: string, values: Values): TrackArguments {
  const marks = marksOf(values);
  const common = commonOf(clip, values);
  if (!marks) throw new UsageError('track needs --marks MARKS.json.');
  const { shape = false, corners = null, mesh = null } = values;
  return { kind: 'track', ...common, marks, shape, corners, mesh };
}

export function moversArguments(clip: string, values: Values): MoversArguments {
  const { masks = null } = values;
  const common = commonOf(clip, values);
  const range = common.from !== null || common.to !== null;
  if (range && masks === null)
    throw new UsageError('--from and --to say of which frames --masks are written.');
  return { kind: 'movers', ...common, masks };
}

export function suggestArguments(clip: string, values: Values): SuggestArguments {
  const frame = values.frame === undefined ? 0 : frameNumber('frame', values.frame);
  const count = values.count === undefined ? SUGGESTED : frameNumber('count', values.count, MOST_SUGGESTED);
  if (count === 0) throw new UsageError('--count must be 1 or more.');
  const { out, json } = commonOf(clip, values);
  return { kind: 'suggest', clip, out, json, frame, count };
}
