/** Files: measurements, motions, data for other programs, pictures in floating point. */

export { fromJson, type MeasuredJson, toJson } from '../formats/columns.js';
export { asciiBytes, asciiJson, asciiText } from '../formats/ascii.js';
export { csvSafe } from '../formats/csv.js';
export { packColumns, unpackColumns } from '../formats/packed.js';
export { packScene, unpackScene } from '../formats/scene-file.js';
export { packRaster, unpackRaster } from '../formats/raster-file.js';
export { type NamedTrack, parseTracks, writeTracks } from '../formats/tracks-file.js';
export { cornerRows, type NamedSurface, writeCorners } from '../formats/corners-file.js';
export {
  type ColumnMapping,
  guessMapping,
  type ImportedSpot,
  readSampleTable,
  samplesFromTable,
  type SampleTable,
} from '../formats/sample-table.js';
export { writeMotion } from '../formats/motion-file.js';
export { notesAsCsv, type NotesFile, readNotes } from '../formats/notes-file.js';
export { MOTION_COLUMNS, motionTable } from '../formats/motion-table.js';
export { type FloatPicture, readExr, writeExr } from '../formats/exr.js';
export type { Pack } from '../formats/packing.js';
export {
  type BroughtSurface,
  DATA_CHOICES,
  DATA_EXPORTS,
  type DataChoices,
  type DataExport,
  dataExportById,
  type DataFile,
  dataOfMeshes,
  meshesOfData,
  type NamedMesh,
  plainData,
  type DataKind,
  dataOfMovers,
  dataOfPlan,
  dataOfSurfaces,
  dataOfTracks,
  gridOfMap,
  handOver,
  inTurn,
  type MapGrid,
  matricesOf,
  meshOfMaps,
  motionFrame,
  type MovingData,
  OUR_CHOICES,
  readData,
  readMapPng,
  stMap,
  surfacesOfData,
  tableColumns,
  tableRows,
  timeCode,
  withMeshes,
  withWarps,
} from '../formats/data/index.js';
