import { LurnError } from '../errors.js';
import {
  EMPTY_TRACK,
  samplesOf,
  withSamples,
  type FramedSample,
  type SampleState,
  type Track,
} from '../track/track.js';
import { splitCsvLine } from './csv.js';

export interface NamedTrack {
  readonly name: string;
  readonly track: Track;
}

const HEADER = ['spot', 'frame', 'time_s', 'x_px', 'y_px', 'confidence', 'state'];
const MEASURED: readonly string[] = ['pinned', 'tracked', 'coasted', 'bridged'];

/**
 * Writes TRACKS.csv (conventions): one row a sample, positions to a ten-thousandth of a pixel.
 *
 * @param times  seconds of each frame from frame 0
 */
export function writeTracks(tracks: readonly NamedTrack[], times: ArrayLike<number>): string {
  const rows = [HEADER.join(',')];
  for (const { name, track } of tracks) {
    for (const s of samplesOf(track)) {
      rows.push(
        [
          quoted(name),
          s.frame,
          times[s.frame].toFixed(6),
          s.x.toFixed(4),
          s.y.toFixed(4),
          s.confidence.toFixed(3),
          s.state,
        ].join(','),
      );
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
  const lines = text.replace(/^\uFEFF/, '').split(/\r?\n/);
  const header = splitRow(lines[0] ?? '', 1);
  if (header.join(',') !== HEADER.join(',')) {
    throw bad(1, `the columns must be ${HEADER.join(',')}, not "${lines[0]?.slice(0, 80) ?? ''}"`);
  }
  const found = new Map<string, FramedSample[]>();
  const seen = new Set<string>();
  lines.forEach((line, i) => {
    if (i === 0 || line.trim() === '') return;
    const row = splitRow(line, i + 1);
    if (row.length !== HEADER.length)
      throw bad(i + 1, `${row.length} columns where ${HEADER.length} are due`);
    const number = (column: number): number => {
      const v = Number(row[column]);
      if (row[column].trim() === '' || !Number.isFinite(v)) {
        throw bad(i + 1, `column ${HEADER[column]}: "${row[column]}" is not a number`);
      }
      return v;
    };
    const frame = number(1);
    if (!Number.isInteger(frame) || frame < 0 || frame >= frames) {
      throw bad(i + 1, `column frame: ${row[1]} is not a frame of the clip (0 to ${frames - 1})`);
    }
    if (!MEASURED.includes(row[6]))
      throw bad(i + 1, `column state: "${row[6]}" is not one of ${MEASURED.join(', ')}`);
    const key = `${frame} ${row[0]}`;
    if (seen.has(key)) throw bad(i + 1, `"${row[0]}" has a second sample on frame ${frame}`);
    seen.add(key);
    const samples = found.get(row[0]) ?? [];
    samples.push({ frame, x: number(3), y: number(4), confidence: number(5), state: row[6] as SampleState });
    found.set(row[0], samples);
  });
  if (found.size === 0) throw bad(2, 'there is no sample in it');
  return [...found].map(([name, samples]) => ({ name, track: withSamples(EMPTY_TRACK, samples) }));
}

function quoted(text: string): string {
  return /[",\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

function splitRow(line: string, number: number): string[] {
  const cells = splitCsvLine(line);
  if (!cells) throw bad(number, 'a quotation mark is not closed');
  return cells;
}

function bad(line: number, why: string): LurnError {
  return new LurnError('bad-tracks', `The tracks file cannot be used: line ${line}: ${why}.`, { line });
}
