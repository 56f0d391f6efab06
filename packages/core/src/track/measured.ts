/**
 * What a tracker of any kind has measured, in columns over a span of frames. Each kind declares its columns here, once:
 * resizing, trimming, saving and the API's shape follow from the declaration.
 */

/** How a sample came about (conventions: pinned, tracked, coasted, bridged; no sample is `missing`). */
export type SampleState = 'pinned' | 'tracked' | 'coasted' | 'bridged';

export const STATES = ['missing', 'pinned', 'tracked', 'coasted', 'bridged'] as const;

export interface Column {
  /** The value on frames that have none; NaN is written as null. */
  readonly missing: number;
  /** Decimals that are kept when it is saved. */
  readonly decimals: number;
  /** `always` on every sample; `sometimes` may be missing on a sample, and is left out where it is throughout. */
  readonly present: 'always' | 'sometimes';
  /** One value a vertex of a mesh, a frame; one a frame when left out. */
  readonly each?: 'vertex';
}

/** The kinds of tracker, each with its columns. */
export const MEASURED_COLUMNS = {
  spot: {
    /** Centre of the patch, in source pixels. */
    x: { missing: NaN, decimals: 4, present: 'always' },
    y: { missing: NaN, decimals: 4, present: 'always' },
    /** By how many pixels tracking from the other side disagrees. */
    mismatch: { missing: 0, decimals: 3, present: 'sometimes' },
    /** Radians, clockwise, and ratio by which the patch has turned and grown since its template was taken. */
    turn: { missing: NaN, decimals: 6, present: 'sometimes' },
    scale: { missing: NaN, decimals: 6, present: 'sometimes' },
  },
  surface: {
    /** Where the corners of the surface's base go, clockwise from the top left, in source pixels. */
    x1: { missing: NaN, decimals: 5, present: 'always' },
    y1: { missing: NaN, decimals: 5, present: 'always' },
    x2: { missing: NaN, decimals: 5, present: 'always' },
    y2: { missing: NaN, decimals: 5, present: 'always' },
    x3: { missing: NaN, decimals: 5, present: 'always' },
    y3: { missing: NaN, decimals: 5, present: 'always' },
    x4: { missing: NaN, decimals: 5, present: 'always' },
    y4: { missing: NaN, decimals: 5, present: 'always' },
    /** The part of its texture that was seen and fitted, 0 to 1. */
    held: { missing: NaN, decimals: 3, present: 'sometimes' },
    /** By how many pixels tracking from the other side disagrees, at the worst corner. */
    mismatch: { missing: 0, decimals: 3, present: 'sometimes' },
  },
  soft: {
    /** Where the vertices of its mesh are, in source pixels; missing where one is hidden or has ended. */
    x: { missing: NaN, decimals: 3, present: 'sometimes', each: 'vertex' },
    y: { missing: NaN, decimals: 3, present: 'sometimes', each: 'vertex' },
    /** The probability that a vertex is within 0.5 px. */
    confidences: { missing: 0, decimals: 2, present: 'sometimes', each: 'vertex' },
    /** How each came about: an index into {@link STATES}. */
    states: { missing: 0, decimals: 0, present: 'sometimes', each: 'vertex' },
    /** The part of its texture that was seen and fitted, 0 to 1. */
    held: { missing: NaN, decimals: 3, present: 'sometimes' },
  },
} as const satisfies Record<string, Record<string, Column>>;

export type MeasuredKind = keyof typeof MEASURED_COLUMNS;
export type ColumnName<K extends MeasuredKind = MeasuredKind> = keyof (typeof MEASURED_COLUMNS)[K] & string;

/** The samples of one tracker. Immutable: edits give a new one, so that undo steps share what they have in common. */
export interface Measured<K extends MeasuredKind = MeasuredKind> {
  readonly kind: K;
  /** First frame of the span. */
  readonly start: number;
  /** Index into {@link STATES}, a frame; 0 is missing. */
  readonly state: Uint8Array;
  readonly confidence: Float64Array;
  /** Vertices of its mesh; 1 of what has none. */
  readonly width: number;
  /** A value a frame, or one a vertex: those of a frame stand together. */
  readonly values: Readonly<Record<ColumnName<K>, Float64Array>>;
}

/** The declared columns of a kind, in their order. */
export function columnsOf<K extends MeasuredKind>(kind: K): readonly (readonly [ColumnName<K>, Column])[] {
  return Object.entries(MEASURED_COLUMNS[kind]) as unknown as readonly (readonly [ColumnName<K>, Column])[];
}

/** How many values of a column stand for one frame. */
export const perFrame = ({ each }: Column, width: number): number => (each === 'vertex' ? width : 1);

/** True of kinds that have values a vertex. */
export const isMeshed = (kind: MeasuredKind): boolean =>
  columnsOf(kind).some(([, { each }]) => each === 'vertex');

/** From so many frames on, columns lie where threads can share them: to hand them over costs nothing then. */
const SHARED_FROM = 20_000;

function column(length: number): Float64Array {
  const shared = length >= SHARED_FROM && typeof SharedArrayBuffer !== 'undefined';
  return shared ? new Float64Array(new SharedArrayBuffer(8 * length)) : new Float64Array(length);
}

/** Room for samples on `length` frames from `start`, all of them missing. @param width  vertices of its mesh */
export function emptyMeasured<K extends MeasuredKind>(
  kind: K,
  start = 0,
  length = 0,
  width = 1,
): Measured<K> {
  const values = Object.fromEntries(
    columnsOf(kind).map(([name, declared]) => {
      const values = column(length * perFrame(declared, width));
      return [name, declared.missing === 0 ? values : values.fill(declared.missing)];
    }),
  ) as Record<ColumnName<K>, Float64Array>;
  return { kind, start, state: new Uint8Array(length), confidence: column(length), width, values };
}

/** One past the last frame of the span. */
export function measuredEnd({ start, state }: Pick<Measured, 'start' | 'state'>): number {
  return start + state.length;
}

/** True where there is a sample on a frame. */
export function hasSample({ start, state }: Pick<Measured, 'start' | 'state'>, frame: number): boolean {
  return (state[frame - start] ?? 0) !== 0;
}

/** How many frames have a sample. @param most  it is not counted beyond this */
export function countSamples({ state }: Pick<Measured, 'state'>, most = Infinity): number {
  let n = 0;
  for (let i = 0; i < state.length && n < most; i++) if (state[i]) n++;
  return n;
}

/** A copy over the frames `start` to `end - 1`; what lies outside them is left off. */
export function resized<K extends MeasuredKind>(from: Measured<K>, start: number, end: number): Measured<K> {
  const { width } = from;
  const out = emptyMeasured(from.kind, start, end - start, width);
  const first = Math.max(start, from.start);
  const last = Math.min(end, measuredEnd(from));
  if (first >= last) return out;
  const [a, b] = [first - from.start, last - from.start];
  out.state.set(from.state.subarray(a, b), first - start);
  out.confidence.set(from.confidence.subarray(a, b), first - start);
  for (const [name, column] of columnsOf(from.kind)) {
    const n = perFrame(column, width);
    out.values[name].set(from.values[name].subarray(n * a, n * b), n * (first - start));
  }
  return out;
}

/** Without the frames at either end that have no sample. */
export function trimmed<K extends MeasuredKind>(from: Measured<K>): Measured<K> {
  let a = 0;
  let b = from.state.length;
  while (a < b && !from.state[a]) a++;
  while (b > a && !from.state[b - 1]) b--;
  if (a === b) return emptyMeasured(from.kind, 0, 0, from.width);
  return a === 0 && b === from.state.length ? from : resized(from, from.start + a, from.start + b);
}

/** Without the samples on frames `from` to `to` (both included) whose state `drop` agrees to. */
export function withoutSamples<K extends MeasuredKind>(
  measured: Measured<K>,
  from: number,
  to: number,
  drop: (state: SampleState) => boolean = () => true,
): Measured<K> {
  const { start, kind } = measured;
  const out = resized(measured, start, measuredEnd(measured));
  const columns = columnsOf(kind);
  for (let f = Math.max(from, start); f <= Math.min(to, measuredEnd(measured) - 1); f++) {
    const i = f - start;
    if (!out.state[i] || !drop(STATES[out.state[i]] as SampleState)) continue;
    out.confidence[i] = out.state[i] = 0;
    for (const [name, column] of columns) {
      const n = perFrame(column, out.width);
      out.values[name].fill(column.missing, n * i, n * (i + 1));
    }
  }
  return trimmed(out);
}
