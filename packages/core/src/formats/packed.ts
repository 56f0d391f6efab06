import { LurnError } from '../errors.js';
import { asciiBytes, asciiText } from './ascii.js';
import {
  columnsOf,
  emptyMeasured,
  isMeshed,
  MEASURED_COLUMNS,
  perFrame,
  STATES,
  type Column,
  type Measured,
  type MeasuredKind,
} from '../track/measured.js';
import { LONGEST_VARINT, signed, VarintReader, VarintWriter, zigzag } from './varints.js';

/**
 * Measured samples in few bytes: what lies in the database and goes between server and page. Numbers are whole multiples
 * of what their column's decimals allow, each told by its difference from the one before it, as a variable-length
 * integer of seven bits a byte (base 128 varints with zig-zag signs, Protocol Buffers encoding). A spot takes about
 * seven bytes a frame, and each column a few nanoseconds a sample.
 *
 *     version 1 | length of the kind's name, name | start | frames | of meshes: vertices
 *     states: (length of the run, state)...
 *     confidence | each declared column: 1 where it is there, and its values; 0 where it is missing throughout
 *
 * Values are those of frames that have a sample; 0 is a missing one, and any other is the difference + 1. Of a mesh the
 * values of one vertex come after the other's, each in the order of frames.
 */

const VERSION = 1;
/** Vertices that a mesh has at the most. */
export const MOST_VERTICES = 5000;
const CONFIDENCE: Column = { missing: NaN, decimals: 3, present: 'always' };

/** The values of one column, on the frames that have a state. */
function writeValues(
  writer: VarintWriter,
  state: Uint8Array,
  values: Float64Array,
  { missing, decimals }: Column,
  each = 1,
): void {
  const factor = 10 ** decimals;
  for (let v = 0; v < each; v++) {
    let last = 0;
    for (let i = 0; i < state.length; i++) {
      if (!state[i]) continue;
      const value = values[each * i + v];
      if (value === missing || Number.isNaN(value)) {
        writer.whole(0);
        continue;
      }
      const steps = Math.round(value * factor);
      writer.whole(1 + zigzag(steps - last));
      last = steps;
    }
  }
}

function readValues(
  reader: VarintReader,
  { state, start }: Pick<Measured, 'start' | 'state'>,
  values: Float64Array,
  name: string,
  { missing, decimals, present }: Column,
  each = 1,
): void {
  const factor = 10 ** decimals;
  for (let v = 0; v < each; v++) {
    let steps = 0;
    for (let i = 0; i < state.length; i++) {
      if (!state[i]) continue;
      const code = reader.whole();
      if (code === 0) {
        if (present === 'always') throw bad(`frame ${start + i} has a state but no ${name}`);
        values[each * i + v] = missing;
        continue;
      }
      steps += signed(code - 1);
      values[each * i + v] = steps / factor;
    }
  }
}

const bad = (why: string) => new LurnError('bad-track', `The track's columns cannot be read: ${why}.`);

/** Rounded as the kind declares; {@link unpackColumns} gives the same back. */
export function packColumns<K extends MeasuredKind>(measured: Measured<K>): Uint8Array<ArrayBuffer> {
  const { kind, start, state, confidence, width } = measured;
  const columns = columnsOf(kind);
  const values = columns.reduce((n, [, column]) => n + perFrame(column, width), 2);
  const room = 64 + LONGEST_VARINT * (state.length * values + columns.length);
  const writer = new VarintWriter(room);
  const name = asciiBytes(kind);
  writer.whole(VERSION);
  writer.whole(name.length);
  writer.raw(name);
  writer.whole(start);
  writer.whole(state.length);
  if (isMeshed(kind)) writer.whole(width);
  for (let i = 0; i < state.length;) {
    const from = i;
    while (i < state.length && state[i] === state[from]) i++;
    writer.whole(i - from);
    writer.whole(state[from]);
  }
  writeValues(writer, state, confidence, CONFIDENCE);
  for (const [column, declared] of columns) {
    const values = measured.values[column];
    const { missing, present } = declared;
    const there = present === 'always' || values.some((v) => !Object.is(v, missing));
    writer.whole(there ? 1 : 0);
    if (there) writeValues(writer, state, values, declared, perFrame(declared, width));
  }
  return writer.written();
}

/**
 * @param mostFrames  no span may reach further: so many frames the clip has
 * @throws LurnError `bad-track` when the bytes are not such columns, or reach past the clip's end
 */
export function unpackColumns(bytes: Uint8Array, mostFrames = 10_000_000): Measured {
  const reader = new VarintReader(bytes, bad);
  if (reader.whole() !== VERSION) throw bad('they are of a newer version');
  const length = reader.whole();
  const kind = asciiText(reader.raw(Math.min(length, 64)));
  if (!Object.hasOwn(MEASURED_COLUMNS, kind)) throw bad(`"${kind}" is no kind of tracker`);
  const [start, frames] = [reader.whole(), reader.whole()];
  if (start + frames > mostFrames) throw bad(`they go past the clip's ${mostFrames} frames`);
  const width = isMeshed(kind as MeasuredKind) ? reader.whole() : 1;
  if (width < 1 || width > MOST_VERTICES) throw bad(`${width} is no number of vertices`);
  const out = emptyMeasured(kind as MeasuredKind, start, frames, width);
  for (let i = 0; i < frames;) {
    const [run, state] = [reader.whole(), reader.whole()];
    if (run === 0 || i + run > frames) throw bad('the states do not fill its frames');
    if (state >= STATES.length) throw bad(`${state} is no state`);
    out.state.fill(state, i, i + run);
    i += run;
  }
  readValues(reader, out, out.confidence, 'confidence', CONFIDENCE);
  for (const [name, column] of columnsOf(out.kind)) {
    const there = reader.whole();
    if (there > 1) throw bad(`${name} is neither there nor missing`);
    if (there) readValues(reader, out, out.values[name], name, column, perFrame(column, width));
    else if (column.present === 'always') throw bad(`${name} is missing`);
  }
  reader.end();
  return out;
}
