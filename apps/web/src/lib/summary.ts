/**
 * Columns along time summed up by zoom level: level k tells of spans of 2^k frames, so that any stretch is drawn from
 * about as many spans as it has pixels, however long it is.
 */

/** How many spans of one level make one of the next is two; below this many frames nothing is summed up. */
const SMALLEST = 4;

export interface Extremes {
  readonly low: Float32Array;
  readonly high: Float32Array;
}

/** Lowest and highest value of spans of 2, 4, 8 … values; NaN stands for none. Twice as much as the values at most. */
function levelsOf(values: ArrayLike<number>): Extremes[] {
  const levels: Extremes[] = [];
  let [low, high]: [ArrayLike<number>, ArrayLike<number>] = [values, values];
  while (low.length > SMALLEST) {
    const length = (low.length + 1) >> 1;
    const next = { low: new Float32Array(length), high: new Float32Array(length) };
    for (let i = 0; i < length; i++) {
      const [a, b] = [2 * i, Math.min(2 * i + 1, low.length - 1)];
      next.low[i] = least(low[a], low[b]);
      next.high[i] = most(high[a], high[b]);
    }
    levels.push(next);
    ({ low, high } = next);
  }
  return levels;
}

const least = (a: number, b: number) => (a <= b || Number.isNaN(b) ? a : b);
const most = (a: number, b: number) => (a >= b || Number.isNaN(b) ? a : b);

const known = new WeakMap<object, readonly Extremes[]>();

/** The levels of a column; worked out once as long as it is the same. */
function summary(values: ArrayLike<number>): readonly Extremes[] {
  let levels = known.get(values);
  if (!levels) known.set(values, (levels = levelsOf(values)));
  return levels;
}

/**
 * Lowest and highest value of a stretch, values `from` (included) to `to` (not included), NaN where it has none. Spans
 * that lie partly outside count where they begin inside: a pixel's width is not exact to the frame.
 */
export function extremes(values: ArrayLike<number>, from: number, to: number): readonly [number, number] {
  const level = Math.floor(Math.log2(Math.max(1, (to - from) / 2)));
  const size = 2 ** level;
  const at = level > 0 ? summary(values)[level - 1] : undefined;
  const { low, high } = at ?? { low: values, high: values };
  const step = at ? size : 1;
  const last = Math.min(low.length, Math.ceil(to / step));
  let [l, h] = [NaN, NaN];
  for (let i = Math.max(0, Math.floor(from / step)); i < last; i++) {
    l = least(low[i], l);
    h = most(high[i], h);
  }
  return [l, h];
}

/** The lowest value of a stretch, as {@link extremes} has it. */
export function lowest(values: ArrayLike<number>, from: number, to: number): number {
  const level = Math.floor(Math.log2(Math.max(1, (to - from) / 2)));
  const at = level > 0 ? summary(values)[level - 1] : undefined;
  const low = at?.low ?? values;
  const step = at ? 2 ** level : 1;
  const last = Math.min(low.length, Math.ceil(to / step));
  let l = NaN;
  for (let i = Math.max(0, Math.floor(from / step)); i < last; i++) l = least(low[i], l);
  return l;
}

/**
 * A curve as it can be seen: every value where there is room for it, else the lowest and highest of each pixel column.
 * NaN breaks the line.
 *
 * @param x  of a value's place in the column, in pixels; grows evenly
 * @returns points in order; NaN in `v` where the line breaks
 */
export function seenLine(
  values: ArrayLike<number>,
  x: (i: number) => number,
  width: number,
): { readonly px: number; readonly v: number }[] {
  const step = x(1) - x(0);
  const first = Math.max(0, Math.floor(-x(0) / step) - 1);
  const end = Math.min(values.length, Math.ceil((width - x(0)) / step) + 2);
  const out: { px: number; v: number }[] = [];
  if (step >= 0.5) {
    for (let i = first; i < end; i++) out.push({ px: x(i), v: values[i] });
    return out;
  }
  const per = 1 / step;
  for (let i = first; i < end; i += per) {
    const [low, high] = extremes(values, Math.floor(i), Math.max(Math.floor(i) + 1, Math.floor(i + per)));
    const px = x(i);
    const rising =
      out.length === 0 || !(Math.abs(out[out.length - 1].v - high) < Math.abs(out[out.length - 1].v - low));
    out.push({ px, v: rising ? low : high });
    if (low !== high) out.push({ px, v: rising ? high : low });
  }
  return out;
}
