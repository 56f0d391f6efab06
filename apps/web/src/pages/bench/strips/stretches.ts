import { lowestOf } from '../../../lib/summary';

/** Part of a strip that is drawn in one go. */
export interface Stretch {
  /** In pixels. */
  readonly from: number;
  readonly to: number;
  readonly value: number;
}

/** Values that differ by less look the same. */
const SAME = 0.02;

/**
 * The stretches of a column that look the same: each of samples, or where there are more of them than pixels, of columns
 * of a pixel, which show the lowest of theirs. What is NaN is left out. Cost: a few steps a pixel.
 *
 * @param at     where a sample's middle lies, in pixels; grows evenly
 * @param width  of what is seen, from 0
 */
export function stretchesOf(values: ArrayLike<number>, at: (i: number) => number, width: number): Stretch[] {
  const step = at(1) - at(0);
  const left = at(-0.5);
  const lowest = lowestOf(values, 1 / step);
  const dense = step < 1;
  /** The sample at the left edge of a column, and where that is. */
  const sampleOf = (column: number) => (dense ? Math.max(0, Math.floor((column - left) / step)) : column);
  const placeOf = (column: number) => (dense ? column : left + column * step);
  const first = Math.max(0, Math.floor(dense ? left : -left / step));
  const end = dense
    ? Math.ceil(Math.min(width, left + values.length * step))
    : Math.min(values.length, Math.ceil((width - left) / step));
  const stretches: Stretch[] = [];
  let [from, value] = [0, NaN];
  const close = (to: number) => Number.isNaN(value) || stretches.push({ from, to, value });
  for (let column = first; column < end; column++) {
    const i = sampleOf(column);
    const low = lowest(i, Math.max(i + 1, sampleOf(column + 1)));
    if (Math.abs(low - value) < SAME || (Number.isNaN(low) && Number.isNaN(value))) continue;
    close(placeOf(column));
    [from, value] = [placeOf(column), low];
  }
  close(placeOf(end));
  return stretches;
}
