import { LurnError } from '../errors.js';
import { STATES, type SampleState } from '../track/measured.js';
import { EMPTY_TRACK, withSamples, type FramedSample, type Track } from '../track/track.js';
import { readRows } from './csv.js';

/** A table of text cells read from a file, before it is known what its columns mean. */
export interface SampleTable {
  /** Names from the first row, or `column 1`, `column 2`, ... where it holds numbers. */
  readonly columns: readonly string[];
  readonly rows: readonly { readonly line: number; readonly cells: readonly string[] }[];
  readonly separator: ',' | ';' | 'tab' | 'JSON';
  /** True where numbers are written with a comma, as in 412,5. */
  readonly decimalComma: boolean;
}

/** Which column holds what; null where none does. */
export interface ColumnMapping {
  readonly frame: number;
  readonly x: number;
  readonly y: number;
  readonly spot: number | null;
  readonly confidence: number | null;
  readonly state: number | null;
}

export interface ImportClip {
  readonly width: number;
  readonly height: number;
  readonly frames: number;
}

export interface ImportedSpot {
  readonly name: string;
  readonly track: Track;
}

/**
 * Reads a table of samples: CSV with commas, semicolons or tabs (and a decimal comma where the separator allows
 * one), or JSON as a list of objects, alone or under `samples`, `tracks` or `spots`.
 *
 * @throws LurnError `bad-import` that names the line.
 */
export function readSampleTable(text: string): SampleTable {
  const clean = text.replace(/^\uFEFF/, '');
  if (clean.trim() === '') throw fault('the file is empty');
  return /^\s*[[{]/.test(clean) ? fromJson(clean) : fromCsv(clean);
}

function fromCsv(text: string): SampleTable {
  const first = text.split(/\r\n|\r|\n/).find((l) => l.trim() !== '')!;
  const count = (c: string) => first.split(c).length - 1;
  const separator = count('\t') > 0 ? '\t' : count(';') > 0 ? ';' : ',';
  const { rows, unclosed } = readRows(text, separator);
  if (unclosed !== null) throw fault(`line ${unclosed}: a quotation mark is not closed`);
  const width = rows[0].cells.length;
  if (width < 3) {
    throw fault(
      `line ${rows[0].line} has ${width === 1 ? 'one column' : `${width} columns`}: at least frame, x and y are needed`,
    );
  }
  const odd = rows.find((r) => r.cells.length !== width);
  if (odd) throw fault(`line ${odd.line} has ${odd.cells.length} columns where the first has ${width}`);
  const named = rows[0].cells.some((c) => c.trim() !== '' && numberOf(c, true) === null);
  const columns = rows[0].cells.map((c, i) => (named ? c.trim() || `column ${i + 1}` : `column ${i + 1}`));
  const body = named ? rows.slice(1) : rows;
  if (body.length === 0) throw fault('there is no sample in it, only a line of names');
  const decimalComma =
    separator !== ',' && body.some((r) => r.cells.some((c) => /^\s*-?\d+,\d+\s*$/.test(c)));
  return { columns, rows: body, separator: separator === '\t' ? 'tab' : separator, decimalComma };
}

function fromJson(text: string): SampleTable {
  let root: unknown;
  try {
    root = JSON.parse(text);
  } catch (error) {
    throw fault(`it is not JSON (${(error as Error).message})`);
  }
  const isRecord = (v: unknown): v is Record<string, unknown> =>
    typeof v === 'object' && v !== null && !Array.isArray(v);
  let list: unknown = root;
  if (isRecord(root)) list = root.samples ?? root.tracks ?? root.spots;
  if (!Array.isArray(list)) throw fault('it holds no list of samples');
  const objects = list.map((v: unknown, i) => {
    if (!isRecord(v)) throw fault(`entry ${i + 1} is not an object`);
    return v;
  });
  if (objects.length === 0) throw fault('there is no sample in it');
  const columns = [...new Set(objects.flatMap((o) => Object.keys(o)))];
  if (columns.length < 3) throw fault('its entries have fewer than three values: frame, x and y are needed');
  const rows = objects.map((o, i) => ({
    line: i + 1,
    cells: columns.map((c) =>
      o[c] === undefined || o[c] === null
        ? ''
        : typeof o[c] === 'object'
          ? JSON.stringify(o[c])
          : String(o[c]),
    ),
  }));
  return { columns, rows, separator: 'JSON', decimalComma: false };
}

/** Names by which columns are recognised, in the order of trying. */
const NAMES: Record<keyof ColumnMapping, RegExp> = {
  frame: /^(frame|frames|frame_no|frame number|f|n)$/i,
  x: /^(x|x_px|pos_?x|position ?x)$/i,
  y: /^(y|y_px|pos_?y|position ?y)$/i,
  spot: /^(spot|name|track|point|id)$/i,
  confidence: /^(confidence|score|weight|quality)$/i,
  state: /^state$/i,
};

/** The mapping that the columns' names suggest; without names frame, x and y are taken in this order. */
export function guessMapping({ columns }: SampleTable): ColumnMapping {
  const find = (key: keyof ColumnMapping) => {
    const at = columns.findIndex((c) => NAMES[key].test(c));
    return at < 0 ? null : at;
  };
  const [frame, x, y] = [find('frame'), find('x'), find('y')];
  const spot = find('spot');
  const free = columns.map((_, i) => i).filter((i) => i !== spot);
  return {
    frame: frame ?? free[0],
    x: x ?? free[1],
    y: y ?? free[2],
    spot,
    confidence: find('confidence'),
    state: find('state'),
  };
}

/**
 * The tracks that a table holds. Nothing is taken over unless all of it is right.
 *
 * @param firstFrame  the number that the file gives to the clip's first frame, 0 or 1 as a rule
 * @param name        of the spot, where no column tells
 * @throws LurnError `bad-import` that names line and column.
 */
export function samplesFromTable(
  table: SampleTable,
  mapping: ColumnMapping,
  clip: ImportClip,
  firstFrame: number,
  name: string,
): ImportedSpot[] {
  const found = new Map<string, Map<number, FramedSample & { line: number }>>();
  const unit = table.separator === 'JSON' ? 'entry' : 'line';
  for (const { line, cells } of table.rows) {
    const at = (column: number) => `${unit} ${line}, column ${table.columns[column]}`;
    const number = (column: number) => {
      const v = numberOf(cells[column], table.decimalComma);
      if (v === null) throw fault(`${at(column)}: "${cells[column]}" is not a number`);
      return v;
    };
    const frame = number(mapping.frame) - firstFrame;
    if (!Number.isInteger(frame) || frame < 0 || frame >= clip.frames) {
      const range = `${firstFrame} to ${clip.frames - 1 + firstFrame}`;
      throw fault(`${at(mapping.frame)}: ${cells[mapping.frame]} is not a frame of the clip (${range})`);
    }
    const [x, y] = [number(mapping.x), number(mapping.y)];
    const beyond = (v: number, size: number) => v < -size || v > 2 * size;
    if (beyond(x, clip.width))
      throw fault(`${at(mapping.x)}: ${x} px is far outside the picture (0 to ${clip.width})`);
    if (beyond(y, clip.height))
      throw fault(`${at(mapping.y)}: ${y} px is far outside the picture (0 to ${clip.height})`);
    const confidence =
      mapping.confidence === null || cells[mapping.confidence].trim() === '' ? 1 : number(mapping.confidence);
    if (confidence < 0 || confidence > 1) {
      throw fault(`${at(mapping.confidence!)}: a confidence lies between 0 and 1, not at ${confidence}`);
    }
    const state = mapping.state === null ? 'tracked' : cells[mapping.state].trim();
    if (state === 'missing' || !STATES.includes(state as SampleState)) {
      throw fault(`${at(mapping.state!)}: "${state}" is not one of ${STATES.slice(1).join(', ')}`);
    }
    const spot = mapping.spot === null ? name : cells[mapping.spot].trim() || name;
    const samples = found.get(spot) ?? new Map<number, FramedSample & { line: number }>();
    const twin = samples.get(frame);
    if (twin)
      throw fault(
        `${at(mapping.frame)}: frame ${frame + firstFrame} of "${spot}" was given before, in ${unit} ${twin.line}`,
      );
    samples.set(frame, { frame, x, y, confidence, state: state as SampleState, line });
    found.set(spot, samples);
  }
  return [...found].map(([spot, samples]) => ({
    name: spot,
    track: withSamples(EMPTY_TRACK, [...samples.values()]),
  }));
}

/** A number as files write them; null where it is none. */
function numberOf(text: string, decimalComma: boolean): number | null {
  const trimmed = text.trim();
  const plain = decimalComma ? trimmed.replace(',', '.') : trimmed;
  if (!/^[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i.test(plain)) return null;
  const value = Number(plain);
  return Number.isFinite(value) ? value : null;
}

function fault(why: string): LurnError {
  return new LurnError('bad-import', `The file cannot be imported: ${why}.`);
}
