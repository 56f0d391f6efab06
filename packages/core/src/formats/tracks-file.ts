import { LurnError } from '../errors.js';
import { type SampleState } from '../track/measured.js';
import { EMPTY_TRACK, samplesOf, withSamples, type FramedSample, type Track } from '../track/track.js';
import { readRows, writeRow } from './csv.js';

export interface NamedTrack {
  readonly name: string;
  readonly track: Track;
}

const HEADER = ['spot', 'frame', 'time_s', 'x_px', 'y_px', 'confidence', 'state'];
/** Follow where the shape of the patch is wanted, too; empty where it was not measured. */
const SHAPE_HEADER = ['turn_deg', 'scale_pct'];
const DEGREES = 180 / Math.PI;
const MEASURED: readonly string[] = ['pinned', 'tracked', 'coasted', 'bridged'];

/**
 * Writes TRACKS.csv: one row a sample, positions to a ten-thousandth of a pixel.
 *
 * @param times  seconds of each frame from frame 0
 * @param shapes  adds how the patch has turned and grown, in degrees and per cent
 */
export function writeTracks(tracks: readonly NamedTrack[], times: ArrayLike<number>, shapes = false): string {
  const rows = [writeRow(shapes ? [...HEADER, ...SHAPE_HEADER] : HEADER)];
  for (const { name, track } of tracks) {
    for (const s of samplesOf(track)) {
      const own = [name, s.frame, times[s.frame].toFixed(6), s.x.toFixed(4), s.y.toFixed(4)];
      const shape = [
        s.turn === undefined ? '' : (s.turn * DEGREES).toFixed(4),
        s.scale === undefined ? '' : (s.scale * 100).toFixed(4),
      ];
      rows.push(writeRow([...own, s.confidence.toFixed(3), s.state, ...(shapes ? shape : [])]));
    }
  }
  return rows.join('\n') + '\n';
}

/**
 * Reads TRACKS.csv.
 *
 * @throws LurnError `bad-tracks` that names the line and the column.
 */
export function parseTracks(text: string, frames: number): NamedTrack[] {
  const { rows, unclosed } = readRows(text);
  const header = rows[0]?.cells ?? [];
  const shapes = header.length === HEADER.length + SHAPE_HEADER.length;
  const wanted = shapes ? [...HEADER, ...SHAPE_HEADER] : HEADER;
  if (header.join(',') !== wanted.join(',')) {
    throw bad(1, `the columns must be ${HEADER.join(',')}, not "${header.join(',').slice(0, 80)}"`);
  }
  if (unclosed !== null) throw bad(unclosed, 'a quotation mark is not closed');
  const found = new Map<string, FramedSample[]>();
  const seen = new Set<string>();
  for (const { line, cells: row } of rows.slice(1)) {
    if (row.length !== wanted.length) throw bad(line, `${row.length} columns where ${wanted.length} are due`);
    const number = (column: number): number => {
      const v = Number(row[column]);
      if (row[column].trim() === '' || !Number.isFinite(v)) {
        throw bad(line, `column ${wanted[column]}: "${row[column]}" is not a number`);
      }
      return v;
    };
    const frame = number(1);
    if (!Number.isInteger(frame) || frame < 0 || frame >= frames) {
      throw bad(line, `column frame: ${row[1]} is not a frame of the clip (0 to ${frames - 1})`);
    }
    if (!MEASURED.includes(row[6]))
      throw bad(line, `column state: "${row[6]}" is not one of ${MEASURED.join(', ')}`);
    const key = `${frame} ${row[0]}`;
    if (seen.has(key)) throw bad(line, `"${row[0]}" has a second sample on frame ${frame}`);
    seen.add(key);
    const samples = found.get(row[0]) ?? [];
    const shape = (column: number, factor: number) =>
      shapes && row[column].trim() !== '' ? number(column) / factor : undefined;
    const [turn, scale] = [shape(7, DEGREES), shape(8, 100)];
    samples.push({
      ...{ frame, x: number(3), y: number(4), confidence: number(5), state: row[6] as SampleState },
      ...(turn !== undefined && { turn }),
      ...(scale !== undefined && { scale }),
    });
    found.set(row[0], samples);
  }
  if (found.size === 0) throw bad(2, 'there is no sample in it');
  return [...found].map(([name, samples]) => ({ name, track: withSamples(EMPTY_TRACK, samples) }));
}

function bad(line: number, why: string): LurnError {
  return new LurnError('bad-tracks', `The tracks file cannot be used: line ${line}: ${why}.`, { line });
}
