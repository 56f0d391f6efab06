/**
 * Columns along time summed up by zoom level: level k tells of spans of 2^k frames, so that any stretch is drawn from
 * about as many spans as it has pixels, however long it is.
 */

/** How many spans of one level make one of the next is two; below this many frames nothing is summed up. */
const SMALLEST = 4;

/** The lower, or by a sign of -1 the higher, of two values; NaN is none. */
const chosen = (a: number, b: number, sign: 1 | -1) => (sign * a <= sign * b || Number.isNaN(b) ? a : b);

/** The chosen value of spans of 2, 4, 8 … values. As much as the values at most. */
function levelsOf(values: ArrayLike<number>, sign: 1 | -1): Float32Array[] {
  const levels: Float32Array[] = [];
  let below = values;
  while (below.length > SMALLEST) {
    const next = new Float32Array((below.length + 1) >> 1);
    const last = below.length - 1;
    for (let i = 0; i < next.length; i++)
      next[i] = chosen(below[2 * i], below[2 * i < last ? 2 * i + 1 : last], sign);
    levels.push(next);
    below = next;
  }
  return levels;
}

/** The levels of columns; worked out once as long as a column is the same. */
function remembered(sign: 1 | -1) {
  const known = new WeakMap<object, readonly Float32Array[]>();
  return (values: ArrayLike<number>): readonly Float32Array[] => {
    let levels = known.get(values);
    if (!levels) known.set(values, (levels = levelsOf(values, sign)));
    return levels;
  };
}

const lows = remembered(1);
const highs = remembered(-1);

/** Looks a stretch up, values `from` (included) to `to` (not included). */
export type Look = (from: number, to: number) => number;

/**
 * What one asks for the lowest value of stretches of about `size` values, NaN where they have none. Spans that lie partly
 * outside count where they begin inside: a pixel's width is not exact to the frame.
 */
export function lowestOf(values: ArrayLike<number>, size: number): Look {
  return lookUp(levelFor(values, size, lows), 1);
}

/** As {@link lowestOf}, the highest. */
export function highestOf(values: ArrayLike<number>, size: number): Look {
  return lookUp(levelFor(values, size, highs), -1);
}

function lookUp({ column, span }: ReturnType<typeof levelFor>, sign: 1 | -1): Look {
  return (from, to) => {
    const last = Math.min(column.length, Math.ceil(to / span));
    let value = NaN;
    for (let i = Math.max(0, Math.floor(from / span)); i < last; i++) value = chosen(column[i], value, sign);
    return value;
  };
}

function levelFor(values: ArrayLike<number>, size: number, levels: ReturnType<typeof remembered>) {
  const level = Math.floor(Math.log2(Math.max(1, size / 2)));
  const at = level > 0 ? levels(values)[level - 1] : undefined;
  return at ? { column: at, span: 2 ** level } : { column: values, span: 1 };
}

/** Lowest and highest value of every column of a pixel, each joined to the one before; NaN where there is none. */
export interface SeenColumns {
  readonly low: Float32Array;
  readonly high: Float32Array;
}

/**
 * A curve as it can be seen where a pixel has more values than one.
 *
 * @param x  of a value's place in the column, in pixels; grows evenly, by less than one a value
 */
export function seenColumns(values: ArrayLike<number>, x: (i: number) => number, width: number): SeenColumns {
  const per = 1 / (x(1) - x(0));
  const [lowest, highest] = [lowestOf(values, per), highestOf(values, per)];
  const columns = Math.max(0, Math.ceil(width));
  const [low, high] = [new Float32Array(columns), new Float32Array(columns)];
  let [under, over] = [NaN, NaN];
  for (let px = 0; px < columns; px++) {
    const from = Math.floor((px - x(0)) * per);
    const to = Math.max(from + 1, Math.floor((px + 1 - x(0)) * per));
    const [l, h] = to > 0 ? [lowest(from, to), highest(from, to)] : [NaN, NaN];
    // Without it, a steep curve would be a row of dots.
    low[px] = l > over ? over : l;
    high[px] = h < under ? under : h;
    [under, over] = [l, h];
  }
  return { low, high };
}
