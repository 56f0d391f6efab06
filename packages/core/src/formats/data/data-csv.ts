import { writeRow } from '../csv.js';
import { asChosen, rateOf, timeCode, type DataChoices } from './choices.js';
import { exact, plain, type DataExport } from './data-export.js';
import { MATRIX_PARTS, MatrixParts } from './matrix-parts.js';
import { matricesOf, matrixOf, PARTS, THING, type MovingData, type MovingFrame } from './moving-data.js';

/** Columns of the table: a place's carry its unit, a matrix' cells do not. */
export function tableColumns({ kind }: MovingData, { unit, time, numbers }: DataChoices): string[] {
  const matrices = matricesOf(kind);
  const px = unit === 'share' ? '' : '_px';
  const units = { x: px, y: px, rotation: '_deg', scale: numbers === 'percent' ? '_pct' : '' };
  const told =
    matrices.length === 0
      ? PARTS[kind].map((name) => name + px)
      : numbers === 'matrix'
        ? PARTS[kind]
        : matrices.flatMap((m) => MATRIX_PARTS.map((part) => `${m}_${part}${units[part]}`));
  return [
    ...[THING[kind], 'frame', time === 'seconds' ? 'time_s' : 'timecode'],
    ...told,
    ...(matrices.length > 0 ? ['residual_px'] : ['confidence', 'state']),
  ];
}

/** The table's rows, without its head. */
export function* tableRows(data: MovingData, choices: DataChoices): Generator<(string | number)[]> {
  const { things, kind } = asChosen(data, choices);
  const fps = choices.time === 'timecode' ? rateOf(data) : 0;
  const matrices = matricesOf(kind);
  const parts = matrices.length > 0 && choices.numbers !== 'matrix' ? new MatrixParts(choices, data.clip) : null;
  const told = (f: MovingFrame) =>
    parts
      ? matrices.flatMap((_, k) => parts.of(matrixOf(f, k as 0 | 1 | 2)).map(exact))
      : f.values.map(matrices.length > 0 ? exact : plain);
  for (const { name, frames } of things)
    for (const f of frames)
      yield [
        ...[name, f.frame, fps ? timeCode(f.time, fps) : plain(f.time)],
        ...told(f),
        ...(matrices.length > 0 ? [f.residual ?? ''] : [f.confidence ?? '', f.state ?? '']),
      ];
}

/** A table: what every program can read. */
export const csvExport: DataExport = {
  ...{ id: 'csv', name: 'Table (CSV)', extension: 'csv' },
  of: ['tracks', 'corners', 'motion', 'movers'],
  heeds: ['origin', 'y', 'unit', 'first', 'time', 'numbers'],
  *files(data, choices) {
    const rows = [tableColumns(data, choices), ...tableRows(data, choices)];
    yield { name: 'data.csv', content: rows.map((row) => writeRow(row)).join('\n') + '\n' };
  },
};
