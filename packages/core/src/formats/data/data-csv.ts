import { writeRow } from '../csv.js';
import { asChosen, rateOf, timeCode, type DataChoices } from './choices.js';
import { exact, plain, type DataExport } from './data-export.js';
import { pointsOfMeshes } from './kinds/mesh-data.js';
import { MATRIX_PARTS, MatrixParts } from './matrix-parts.js';
import { matricesOf, matrixOf, PARTS, THING, type MovingData, type MovingFrame } from './moving-data.js';

/** Of frames whose correction does not tell wholly what was done: cells across and down, and x and y of the places. */
const MESH = ['mesh_columns', 'mesh_rows', 'mesh_to'];
const meshed = ({ things }: MovingData) => things.some(({ frames }) => frames.some((f) => f.mesh));

/** A mesh has a row for each of its points. */
const asRows = (data: MovingData) => (data.kind === 'meshes' ? pointsOfMeshes(data) : data);

/** Columns of the table: a place's carry its unit, a matrix' cells do not. */
export function tableColumns(given: MovingData, { unit, time, numbers }: DataChoices): string[] {
  const data = asRows(given);
  const { kind } = data;
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
    ...(meshed(data) ? MESH : []),
  ];
}

function meshCells(mesh: MovingFrame['mesh']): (string | number)[] {
  return mesh ? [mesh.columns, mesh.rows, mesh.to.map((v) => plain(Math.round(v * 1e4) / 1e4)).join(' ')] : ['', '', ''];
}

/** The table's rows, without its head. */
export function* tableRows(given: MovingData, choices: DataChoices): Generator<(string | number)[]> {
  const data = asRows(given);
  const { things, kind } = asChosen(data, choices);
  const bent = meshed(data);
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
        ...(bent ? meshCells(f.mesh) : []),
      ];
}

/** A table: what every program can read. */
export const csvExport: DataExport = {
  ...{ id: 'csv', name: 'Table (CSV)', extension: 'csv', meshes: true },
  of: ['tracks', 'corners', 'motion', 'movers', 'meshes'],
  heeds: ['origin', 'y', 'unit', 'first', 'time', 'numbers'],
  *files(data, choices) {
    const rows = [tableColumns(data, choices), ...tableRows(data, choices)];
    yield { name: 'data.csv', content: rows.map((row) => writeRow(row)).join('\n') + '\n' };
  },
};
