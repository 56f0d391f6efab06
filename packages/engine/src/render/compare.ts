import type { Scene } from '@lurn/core/compose';
import { matrixWarp } from '@lurn/core/geometry';
import type { Samples } from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan';
import { planeSizes, type SampleLayout } from '../layout.js';

/** How before and after are shown in one file. */
export type Compare = 'beside' | 'above' | 'wipe';

/** That, and whether each of the two says which it is. */
export interface Comparison {
  readonly way: Compare;
  readonly labels: boolean;
}

/** Seconds in which a wipe goes across and back. */
const WIPE_SECONDS = 4;
/** Luma and chroma of the line between the two, and its width in luma samples. */
const [LINE_LUMA, LINE_CHROMA, LINE] = [200, 128, 2];

/** Where the two lie in the coded picture, which is shown turned. */
export interface ComparePlan {
  /** Along which side of the coded picture they follow each other. */
  readonly along: 'x' | 'y';
  /** True where the one before comes first there. */
  readonly beforeFirst: boolean;
  /** False: one lies over the other, parted by a line that moves. */
  readonly grows: boolean;
}

/** @param turns  quarter turns clockwise by which the coded picture is shown */
export function comparePlan(compare: Compare, turns: number): ComparePlan {
  const across = compare !== 'above';
  const along = across === (turns % 2 === 0) ? 'x' : 'y';
  // Left as shown is left as coded, then the bottom, the right and the top; above is the top, then the left, ...
  const beforeFirst = across ? [true, false, false, true][turns & 3] : [true, true, false, false][turns & 3];
  return { along, beforeFirst, grows: compare !== 'wipe' };
}

/** The size of the picture that holds both. */
export function comparedSize(
  [width, height]: readonly [number, number],
  { along, grows }: ComparePlan,
): [number, number] {
  if (!grows) return [width, height];
  return along === 'x' ? [2 * width, height] : [width, 2 * height];
}

/** The picture as it was shot, as large as the delivered one. */
export function sceneBefore(after: Scene, source: Size): Scene {
  const { size, base } = after;
  const toSource = matrixWarp([source.width / size.width, 0, 0, 0, source.height / size.height, 0, 0, 0, 1]);
  return { size, base: { frame: base.frame, toSource, edges: base.edges, donors: [] }, layers: [] };
}

/** Where the first of the two ends, in luma samples: chroma samples cover two, and the border never lies within one. */
export function borderOf(side: number, plan: ComparePlan, time: number): number {
  return plan.grows ? side : 2 * Math.round((side * wiped(time, plan)) / 2);
}

/** The part of the picture, from its first side, that is told by the first of the two. */
function wiped(time: number, { beforeFirst }: ComparePlan): number {
  const before = 0.5 + 0.5 * Math.cos((2 * Math.PI * time) / WIPE_SECONDS);
  return beforeFirst ? before : 1 - before;
}

/** The samples of a picture's bytes. */
export function samplesOf(bytes: Uint8Array, { depth }: SampleLayout): Samples {
  return depth > 8 ? new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2) : bytes;
}

/**
 * Puts the planes of two pictures of one size into one: luma, two chroma planes of half the size, and alpha where there is
 * room for it. Cost: a copy.
 *
 * @param time  seconds, by which a wipe moves
 */
export function putTogether(
  [before, after]: readonly [Uint8Array, Uint8Array],
  [width, height]: readonly [number, number],
  layout: SampleLayout,
  out: Uint8Array,
  plan: ComparePlan,
  time: number,
): void {
  const [first, second] = (plan.beforeFirst ? [before, after] : [after, before]).map((b) =>
    samplesOf(b, layout),
  );
  const whole = samplesOf(out, layout);
  const side = plan.along === 'x' ? width : height;
  const border = borderOf(side, plan, time);
  const unit = 2 ** (layout.depth - 8);
  let [from, to] = [0, 0];
  planeSizes(layout, width, height).forEach(([w, h], plane) => {
    const chroma = plane === 1 || plane === 2;
    const share = plan.along === 'x' ? width / w : height / h;
    const at = plan.grows ? (plan.along === 'x' ? w : h) : Math.round(border / share);
    const own = (all: Samples) => all.subarray(from, from + w * h);
    const size = comparedSize([w, h], plan);
    const target = whole.subarray(to, to + size[0] * size[1]);
    if (plan.along === 'x') rowsBeside(own(first), own(second), w, h, at, plan.grows, target);
    else rowsBelow(own(first), own(second), w, at, plan.grows, target);
    if (!plan.grows && plane < 3)
      drawLine(target, w, h, plan.along, at, LINE / share, unit * (chroma ? LINE_CHROMA : LINE_LUMA));
    from += w * h;
    to += target.length;
  });
}

function rowsBeside(
  a: Samples,
  b: Samples,
  w: number,
  h: number,
  border: number,
  grows: boolean,
  out: Samples,
): void {
  const wide = grows ? 2 * w : w;
  for (let y = 0; y < h; y++) {
    out.set(a.subarray(y * w, y * w + border), y * wide);
    out.set(b.subarray(grows ? y * w : y * w + border, (y + 1) * w), y * wide + border);
  }
}

function rowsBelow(a: Samples, b: Samples, w: number, border: number, grows: boolean, out: Samples): void {
  out.set(a.subarray(0, border * w));
  out.set(grows ? b : b.subarray(border * w), border * w);
}

function drawLine(
  out: Samples,
  w: number,
  h: number,
  along: 'x' | 'y',
  border: number,
  width: number,
  value: number,
): void {
  const side = along === 'x' ? w : h;
  if (border <= 0 || border >= side) return;
  const from = Math.max(0, border - width / 2);
  const to = Math.min(side, from + width);
  if (along === 'y') out.fill(value, Math.floor(from) * w, Math.floor(to) * w);
  else for (let y = 0; y < h; y++) out.fill(value, y * w + Math.floor(from), y * w + Math.floor(to));
}
