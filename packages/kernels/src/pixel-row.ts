import { kernels, SCRATCH } from './instance.js';

/** What eight-bit luma and chroma add to red, green and blue, in 65536ths: factors, and what is added once. */
export interface PixelCode {
  /** Of luma, to all three; its constant rounds. */
  readonly ky: number;
  readonly cy: number;
  /** Of the second chroma to red. */
  readonly kr: number;
  readonly cr: number;
  /** Of both to green. */
  readonly ku: number;
  readonly kv: number;
  readonly cg: number;
  /** Of the first to blue. */
  readonly kb: number;
  readonly cb: number;
}

/** A row of planes from a sample on. */
export interface PixelRow {
  readonly y: Uint8Array;
  readonly u: Uint8Array;
  readonly v: Uint8Array;
  /** Where the row begins in luma, and in chroma. */
  readonly luma: number;
  readonly chroma: number;
  /** One chroma sample for two of luma, the first of which is the first of two. */
  readonly pairs: boolean;
}

/**
 * A row of luma and chroma as pixels, red in the lowest byte: each from the samples that lie there, none between them.
 * Cost: some ten operations a pixel; a fifth of that by the kernel.
 *
 * @param out  receives `n` pixels from `at` on
 */
export function pixelRow(row: PixelRow, n: number, code: PixelCode, out: Int32Array, at: number): void {
  const all = kernels();
  const room = (n + 71) & -64;
  if (!all || 7 * room > SCRATCH) return pixelRowPlain(row, n, code, out, at);
  const { bytes, words, scratch } = all;
  const { y, u, v, luma, chroma, pairs } = row;
  const [first, second, third, to] = [
    scratch + 64,
    scratch + 64 + room,
    scratch + 64 + 2 * room,
    scratch + 64 + 3 * room,
  ];
  const { ky, cy, kr, cr, ku, kv, cg, kb, cb } = code;
  const coded = scratch >> 2;
  // prettier-ignore
  { words[coded] = ky; words[coded + 1] = cy; words[coded + 2] = kr; words[coded + 3] = cr; words[coded + 4] = ku;
    words[coded + 5] = kv; words[coded + 6] = cg; words[coded + 7] = kb; words[coded + 8] = cb; }
  const few = pairs ? (n + 1) >> 1 : n;
  bytes.set(y.subarray(luma, luma + n), first);
  bytes.set(u.subarray(chroma, chroma + few), second);
  bytes.set(v.subarray(chroma, chroma + few), third);
  all.pixelRow(first, second, third, pairs, n, scratch, to);
  out.set(words.subarray(to >> 2, (to >> 2) + n), at);
}

/** {@link pixelRow} by plain TypeScript. */
export function pixelRowPlain(row: PixelRow, n: number, code: PixelCode, out: Int32Array, at: number): void {
  const { y, u, v, luma, chroma, pairs } = row;
  const { ky, cy, kr, cr, ku, kv, cg, kb, cb } = code;
  const clamped = (value: number) => (value < 0 ? 0 : value > 255 ? 255 : value);
  for (let i = 0; i < n; i++) {
    const c = chroma + (pairs ? i >> 1 : i);
    const l = ky * y[luma + i] + cy;
    const r = clamped((l + kr * v[c] + cr) >> 16);
    const g = clamped((l + ku * u[c] + kv * v[c] + cg) >> 16);
    const b = clamped((l + kb * u[c] + cb) >> 16);
    out[at + i] = (255 << 24) | (b << 16) | (g << 8) | r;
  }
}
