import { closedOn, type Area, type Closed } from './area.js';
import type { Point } from './matrix.js';

/** Samples round what is closed that are closed as well: an interpolated value is made of those beside it, too. */
const RIM = 2;

/**
 * The samples that areas close on one frame.
 *
 * Cost: one pass over the rows and edges, and a few over the samples.
 */
export function coverOf({ ignored, focus }: Closed, width: number, height: number): Uint8Array {
  const cover = new Uint8Array(width * height);
  if (focus.length > 0) {
    cover.fill(1);
    for (const outline of focus) fill(cover, outline, width, height, 0);
  }
  for (const outline of ignored) fill(cover, outline, width, height, 1);
  return grown(grown(cover, width, height, 1), height, width, width);
}

/** Writes a value to the samples whose centre an outline holds, row by row. */
function fill(
  cover: Uint8Array,
  outline: readonly Point[],
  width: number,
  height: number,
  value: 0 | 1,
): void {
  const ys = outline.map((p) => p.y);
  const top = Math.max(0, Math.floor(Math.min(...ys)));
  const bottom = Math.min(height, Math.ceil(Math.max(...ys)));
  for (let row = top; row < bottom; row++) {
    const y = row + 0.5;
    const crossings: number[] = [];
    for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
      const [a, b] = [outline[i], outline[j]];
      if (a.y > y !== b.y > y) crossings.push(a.x + ((y - a.y) / (b.y - a.y)) * (b.x - a.x));
    }
    crossings.sort((a, b) => a - b);
    for (let k = 0; k + 1 < crossings.length; k += 2) {
      const left = Math.max(0, Math.ceil(crossings[k] - 0.5));
      const right = Math.min(width, Math.ceil(crossings[k + 1] - 0.5));
      if (right > left) cover.fill(value, row * width + left, row * width + right);
    }
  }
}

/** What is closed, grown by {@link RIM} along lines: rows when `step` is 1 and there are `lines` of `length`. */
function grown(cover: Uint8Array, length: number, lines: number, step: number): Uint8Array {
  const out = cover.slice();
  const between = step === 1 ? length : 1;
  for (let line = 0; line < lines; line++) {
    for (let i = 1, p = line * between + step; i < length; i++, p += step) {
      if (cover[p] === cover[p - step]) continue;
      const first = cover[p] ? i - RIM : i;
      for (let k = Math.max(0, first); k < Math.min(length, first + RIM); k++)
        out[line * between + k * step] = 1;
    }
  }
  return out;
}

/** The covers of a clip's frames; one that is as on the frame before is the same array. */
export class Covers {
  private last: { readonly key: string; readonly cover: Uint8Array } | null = null;

  constructor(private readonly areas: readonly Area[]) {}

  /** @returns null where everything may be measured */
  at(frame: number, width: number, height: number): Uint8Array | null {
    if (this.areas.length === 0) return null;
    const closed = closedOn(this.areas, frame);
    const key = JSON.stringify([closed, width, height]);
    if (this.last?.key !== key) this.last = { key, cover: coverOf(closed, width, height) };
    return this.last.cover;
  }
}
