import { LurnError } from '../errors.js';
import { MOST_VERTICES } from './packed.js';
import {
  columnsOf,
  emptyMeasured,
  isMeshed,
  MEASURED_COLUMNS,
  perFrame,
  type ColumnName,
  type Measured,
  type MeasuredKind,
} from '../track/measured.js';

/** Measured samples as plain JSON: columns over a span of frames, rounded as their kind declares. */
export interface MeasuredJson<K extends MeasuredKind = MeasuredKind> {
  readonly kind: K;
  readonly start: number;
  /** One letter a frame: `-` missing, `p` pinned, `t` tracked, `c` coasted, `b` bridged. */
  readonly state: string;
  readonly confidence: readonly number[];
  /** Vertices of a mesh; left out of what has none. */
  readonly width?: number;
  /** null where a value is missing. A column that is missing throughout is left out. */
  readonly values: Readonly<Partial<Record<ColumnName<K>, readonly (number | null)[]>>>;
}

export const STATE_LETTERS = '-ptcb';

const rounded = (decimals: number) => {
  const factor = 10 ** decimals;
  return (v: number) => (Number.isNaN(v) ? null : Math.round(v * factor) / factor);
};

export function toJson<K extends MeasuredKind>(measured: Measured<K>): MeasuredJson<K> {
  const { kind, start, state, confidence, width } = measured;
  const values: Partial<Record<ColumnName<K>, (number | null)[]>> = {};
  for (const [name, { missing, decimals, present }] of columnsOf(kind)) {
    const column = measured.values[name];
    if (present === 'sometimes' && column.every((v) => Object.is(v, missing))) continue;
    values[name] = Array.from(column, rounded(decimals));
  }
  return {
    kind,
    start,
    state: Array.from(state, (s) => STATE_LETTERS[s]).join(''),
    confidence: Array.from(confidence, (c) => Math.round(c * 1e3) / 1e3),
    ...(isMeshed(kind) && { width }),
    values,
  };
}

/** A probability may be so far off by what rounding leaves. */
const ROUNDED = 1e-3;

/** @throws LurnError `bad-track` when the columns do not fit each other or a value is not what it should be. */
export function fromJson<K extends MeasuredKind>(json: MeasuredJson<K>): Measured<K> {
  const bad = (why: string) => new LurnError('bad-track', `The track's columns cannot be read: ${why}.`);
  if (!Object.hasOwn(MEASURED_COLUMNS, json.kind)) throw bad(`"${json.kind}" is no kind of tracker`);
  const n = json.state.length;
  const width = isMeshed(json.kind) ? (json.width ?? 1) : 1;
  if (!Number.isInteger(width) || width < 1 || width > MOST_VERTICES)
    throw bad(`${width} is no number of vertices`);
  if (n === 0) return emptyMeasured(json.kind, 0, 0, width);
  if (!Number.isInteger(json.start) || json.start < 0) throw bad('the first frame is not 0 or more');
  if (json.confidence.length !== n) throw bad('confidence and state differ in length');
  const out = emptyMeasured(json.kind, json.start, n, width);
  for (let i = 0; i < n; i++) {
    const state = STATE_LETTERS.indexOf(json.state[i]);
    if (state < 0) throw bad(`a state is not one of "${STATE_LETTERS}"`);
    out.state[i] = state;
    const confidence = json.confidence[i] ?? 0;
    if (!(Math.abs(confidence - 0.5) <= 0.5 + ROUNDED))
      throw bad(`frame ${json.start + i} has a confidence of ${confidence}, which goes from 0 to 1`);
    out.confidence[i] = confidence;
  }
  const columns = columnsOf(json.kind);
  for (const name of Object.keys(json.values)) {
    if (!columns.some(([known]) => known === name)) throw bad(`"${name}" is not one of its columns`);
  }
  for (const [name, declared] of columns) {
    const { missing, present } = declared;
    const column: readonly (number | null)[] | undefined = json.values[name];
    if (!column) {
      if (present === 'always') throw bad(`${name} is missing`);
      continue;
    }
    const each = perFrame(declared, width);
    if (column.length !== n * each) throw bad(`${name} and state differ in length`);
    for (let i = 0; i < n * each; i++) {
      const v = column[i] ?? missing;
      if (present === 'always' && out.state[Math.floor(i / each)] && !Number.isFinite(v))
        throw bad(`frame ${json.start + i} has a state but no ${name}`);
      out.values[name][i] = v;
    }
  }
  return out;
}
