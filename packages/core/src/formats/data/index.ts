import { LurnError } from '../../errors.js';
import type { Pack } from '../packing.js';
import { OUR_CHOICES, rateOf, type DataChoices } from './choices.js';
import { csvExport } from './data-csv.js';
import type { DataExport, DataFile } from './data-export.js';
import { gltfExport } from './data-gltf.js';
import { jsonExport } from './data-json.js';
import { objExport } from './data-obj.js';
import { otioExport } from './data-otio.js';
import { cssExport, svgExport, vttExport } from './data-web.js';
import type { MovingData } from './moving-data.js';
import { stExrExport, stPngExport } from './st-maps.js';

export * from './choices.js';
export * from './data-export.js';
export * from './data-of.js';
export { tableColumns, tableRows } from './data-csv.js';
export * from './moving-data.js';
export { MatrixParts } from './matrix-parts.js';
export { plainData } from './data-json.js';
export { readData } from './read-data.js';
export { dataOfMeshes, meshesOfData, type NamedMesh } from './kinds/mesh-data.js';
export { readMapPng, stMap } from './st-maps.js';
export * from './brought-in.js';
export * from './in-turn.js';

/** Every kind of file that data leaves in, in the order in which they are offered. */
export const DATA_EXPORTS: readonly DataExport[] = [
  ...[csvExport, jsonExport, otioExport, gltfExport, svgExport, cssExport, vttExport],
  ...[objExport, stPngExport, stExrExport],
];

/** @throws LurnError `no-format` that names those that there are */
export function dataExportById(id: string): DataExport {
  const found = DATA_EXPORTS.find((e) => e.id === id);
  if (found) return found;
  const known = DATA_EXPORTS.map((e) => e.id).join(', ');
  throw new LurnError('no-format', `Data cannot go out as "${id}": choose one of ${known}.`);
}

/**
 * The files that data becomes.
 *
 * @throws LurnError `wrong-data` where the format cannot tell of such data, `no-size` and `no-rate` where it needs them
 */
export function handOver(
  data: MovingData,
  { of, files, name }: DataExport,
  choices: DataChoices = OUR_CHOICES,
  pack?: Pack,
): Iterable<DataFile> {
  if (!of.includes(data.kind))
    throw new LurnError('wrong-data', `${name} cannot tell of ${data.kind}: only of ${of.join(', ')}.`);
  return files(timed(data), choices, pack);
}

/** Times where a file did not tell them: by its rate. */
function timed(data: MovingData): MovingData {
  if (data.things.every((t) => t.frames.every((f) => Number.isFinite(f.time)))) return data;
  const fps = rateOf(data);
  const things = data.things.map(({ frames, ...thing }) => ({
    ...thing,
    frames: frames.map((f) => (Number.isFinite(f.time) ? f : { ...f, time: f.frame / fps })),
  }));
  return { ...data, things };
}
