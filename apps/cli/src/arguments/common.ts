import { frameNumber, UsageError, type Values } from './values.js';

/** What several commands are told alike. */
export interface Common {
  readonly clip: string;
  readonly from: number | null;
  readonly to: number | null;
  readonly out: string | null;
  readonly json: boolean;
}

export function commonOf(clip: string, values: Values): Common {
  return {
    clip,
    from: values.from === undefined ? null : frameNumber('from', values.from),
    to: values.to === undefined ? null : frameNumber('to', values.to),
    out: values.out ?? null,
    json: values.json ?? false,
  };
}

/** The file of marks, by either of its names. */
export function marksOf({ marks, spots }: Values): string | undefined {
  if (marks && spots) throw new UsageError('--spots is another name of --marks: give one of them.');
  return marks ?? spots;
}
