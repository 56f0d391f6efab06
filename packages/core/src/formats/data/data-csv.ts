import { writeRow } from '../csv.js';
import { asChosen, rateOf, timeCode, type DataChoices } from './choices.js';
import { exact, plain, type DataExport } from './data-export.js';
import { PARTS, THING, type MovingData } from './moving-data.js';

/** Columns of the table: a place's carry its unit, a matrix' cells do not. */
export function tableColumns({ kind }: MovingData, { unit, time }: DataChoices): string[] {
  const suffix = kind === 'motion' || unit === 'share' ? '' : '_px';
  return [
    ...[THING[kind], 'frame', time === 'seconds' ? 'time_s' : 'timecode'],
    ...PARTS[kind].map((name) => name + suffix),
    ...(kind === 'motion' ? ['residual_px'] : ['confidence', 'state']),
  ];
}

/** The table's rows, without its head. */
export function* tableRows(data: MovingData, choices: DataChoices): Generator<(string | number)[]> {
  const { things, kind } = asChosen(data, choices);
  const fps = choices.time === 'timecode' ? rateOf(data) : 0;
  for (const { name, frames } of things)
    for (const { frame, time, values, confidence, state, residual } of frames)
      yield [
        ...[name, frame, fps ? timeCode(time, fps) : plain(time)],
        ...values.map(kind === 'motion' ? exact : plain),
        ...(kind === 'motion' ? [residual ?? ''] : [confidence ?? '', state ?? '']),
      ];
}

/** A table: what every program can read. */
export const csvExport: DataExport = {
  ...{ id: 'csv', name: 'Table (CSV)', extension: 'csv' },
  of: ['tracks', 'corners', 'motion'],
  heeds: ['origin', 'y', 'unit', 'first', 'time'],
  *files(data, choices) {
    const rows = [tableColumns(data, choices), ...tableRows(data, choices)];
    yield { name: 'data.csv', content: rows.map((row) => writeRow(row)).join('\n') + '\n' };
  },
};
