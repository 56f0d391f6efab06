import { MODULE } from './generated/module.js';
import { CUBIC_TABLE, PHASES, SPLINE_TABLE } from './weights.js';

/** What the module exports; addresses are bytes in its memory. What each does is told in its plain TypeScript. */
// prettier-ignore
interface Exports {
  align(
    plane: number, width: number, height: number, stride: number, hw: number, hh: number, images: number,
    kind: number, upright: number, inverse: number, pose: number, limit: number, settled: number, steps: number,
    growth: number, across: number, down: number, room: number,
  ): number;
  sample(
    plane: number, width: number, height: number, stride: number, hw: number, hh: number, upright: number,
    cx: number, cy: number, a: number, b: number, c: number, d: number, across: number, down: number,
    rows: number, out: number,
  ): number;
  alignmentSums(
    seen: number, gx: number, gy: number, patch: number, hw: number, hh: number, out: number,
  ): void;
  patchSums(patch: number, seen: number, count: number, out: number): void;
  cellResiduals(
    patch: number, seen: number, n: number, m: number, gain: number, offset: number, columns: number, out: number,
  ): void;
  correlationSums(
    plane: number, stride: number, patch: number, n: number, m: number, columns: number, rows: number, out: number,
  ): void;
  cubicRow(
    plane: number, width: number, height: number, stride: number, xs: number, ys: number, from: number, n: number,
    across: number, out: number,
  ): number;
  cubicEvenRow(
    plane: number, width: number, height: number, stride: number, x: number, y: number, dx: number, dy: number,
    from: number, n: number, out: number,
  ): number;
  wideEvenRow(
    plane: number, width: number, height: number, stride: number, x: number, y: number, dx: number, dy: number,
    shrink: number, from: number, n: number, out: number, room: number,
  ): number;
  rasterRow(
    raster: number, width: number, height: number, xs: number, ys: number, n: number, shrink: number, shift: number,
    across: number, out: number,
  ): void;
  rasterRowBetween(
    raster: number, width: number, height: number, xs: number, ys: number, n: number, shrink: number, shift: number,
    out: number,
  ): void;
  pixelRow(
    y: number, u: number, v: number, pairs: boolean, n: number, code: number, to: number,
  ): void;
  boxHalf(from: number, stride: number, pairs: number, rows: number, to: number, toStride: number): void;
  surfaceSums(
    data: number, stride: number, u: number, v: number, values: number, gx: number, gy: number, count: number,
    m: number, mean: number, level: number, out: number,
  ): void;
  factorise(data: number, size: number, band: number): void;
  invertFactorised(data: number, size: number, band: number, whole: number, below: number): void;
  addNodePairs(said: number, block: number, pairs: number): void;
  evenRow(x: number, dx: number, n: number, out: number): void;
  halve(
    from: number, width: number, height: number, stride: number, to: number, toStride: number,
    x0: number, y0: number, x1: number, y1: number,
  ): void;
}

/** The kernels with their memory: one a thread. */
export interface Kernels extends Exports {
  readonly buffer: SharedArrayBuffer;
  readonly bytes: Uint8Array;
  readonly shorts: Int16Array;
  readonly words: Int32Array;
  readonly floats: Float32Array;
  readonly doubles: Float64Array;
  /** Tables of the spline's weights ({@link Exports.splineShaped}). */
  readonly across: number;
  readonly down: number;
  /** Table of the weights of cubic convolution ({@link Exports.cubicRow}). */
  readonly cubic: number;
  /** {@link SCRATCH} bytes that hold nothing beyond one call. */
  readonly scratch: number;
  /** As many for the patch that is being aligned. */
  readonly patch: number;
}

const PAGE = 65536;
/** Never grown, so that no view of it is ever lost; what is not used is not backed by the machine's memory. */
const PAGES = 4096;
/** For what a call works on: patches of up to two hundred thousand places. */
export const SCRATCH = 4 * 2 ** 20;
/** What is kept beside pictures leaves this much for them. */
export const FOR_PICTURES = 96 * 2 ** 20;
/** Kernels read whole vectors: a few bytes beyond what they use. */
const SLACK = 64;

let opened: Kernels | null | undefined;
let reason = '';

/** The kernels of this thread; null where they cannot run, and everything goes by plain TypeScript. */
export function kernels(): Kernels | null {
  if (opened === undefined) {
    try {
      opened = open();
    } catch (error) {
      opened = null;
      reason = (error as Error).message;
    }
  }
  return opened;
}

/** Why the kernels are not used here, as a sentence; null where they are. */
export function kernelsMissing(): string | null {
  return kernels() ? null : reason;
}

/** Does something by plain TypeScript, for comparing. */
export function plainly<T>(work: () => T): T {
  const before = kernels();
  opened = null;
  try {
    return work();
  } finally {
    opened = before;
  }
}

function open(): Kernels {
  if (typeof WebAssembly === 'undefined') throw new Error('There is no WebAssembly here.');
  if (typeof SharedArrayBuffer === 'undefined')
    throw new Error('Memory cannot be shared here: the page is not isolated from other origins.');
  const code = Uint8Array.from(atob(MODULE), (c) => c.charCodeAt(0));
  if (!WebAssembly.validate(code)) throw new Error('WebAssembly has no vector instructions here.');
  const memory = new WebAssembly.Memory({ initial: PAGES, maximum: PAGES, shared: true });
  const { exports } = new WebAssembly.Instance(new WebAssembly.Module(code), {
    env: { memory, abort: () => undefined },
  });
  const buffer = memory.buffer as unknown as SharedArrayBuffer;
  const across = PAGE;
  const down = across + (PHASES + 1) * 16;
  const cubic = down + (PHASES + 1) * 32;
  const scratch = align(cubic + (PHASES + 1) * 16);
  const patch = scratch + SCRATCH;
  const heap = patch + SCRATCH;
  const views = {
    ...{
      buffer,
      bytes: new Uint8Array(buffer),
      shorts: new Int16Array(buffer),
      words: new Int32Array(buffer),
    },
    ...{ floats: new Float32Array(buffer), doubles: new Float64Array(buffer) },
  };
  fillWhole(SPLINE_TABLE, 32768, views.shorts, across);
  fillWhole(CUBIC_TABLE, 16384, views.shorts, cubic);
  fillDown(views.floats, down);
  free = [{ at: heap, size: PAGES * PAGE - heap }];
  return { ...(exports as unknown as Exports), ...views, across, down, cubic, scratch, patch };
}

/** Weights in whole parts of one, so that they sum to exactly one; each four of them twice. */
function fillWhole(table: Float64Array, one: number, shorts: Int16Array, at: number): void {
  for (let p = 0; p <= PHASES; p++) {
    const whole = [0, 1, 2, 3].map((k) => Math.round(table[4 * p + k] * one));
    whole[p < PHASES / 2 ? 1 : 2] += one - whole.reduce((s, w) => s + w, 0);
    for (let k = 0; k < 8; k++) shorts[at / 2 + 8 * p + k] = whole[k % 4];
  }
}

/** The spline's weights for sums of samples that are weighted in 32768ths already; each of them twice. */
function fillDown(floats: Float32Array, at: number): void {
  for (let p = 0; p <= PHASES; p++) {
    for (let k = 0; k < 8; k++) floats[at / 4 + 8 * p + k] = SPLINE_TABLE[4 * p + (k >> 1)] / 32768;
  }
}

/** Blocks of the memory that are free, by address. */
let free: { at: number; size: number }[] = [];
const align = (size: number) => (size + SLACK - 1) & -SLACK;

const returned = new FinalizationRegistry((block: { at: number; size: number }) => release(block));

/**
 * So many bytes in the kernels' memory; null where there are no kernels, or no room. They are given back when nothing
 * refers to the array any more: whoever keeps a part of it keeps the whole.
 *
 * @param leave  so many bytes must be left for others
 */
export function kernelBytes(count: number, leave = 0): Uint8Array | null {
  const all = kernels();
  if (!all) return null;
  const size = align(count + SLACK);
  const block = free.find((b) => b.size >= size + leave);
  if (!block) return null;
  const view = new Uint8Array(all.buffer, block.at, count);
  returned.register(view, { at: block.at, size });
  block.at += size;
  block.size -= size;
  return view;
}

/** So many doubles where the kernels reach them, elsewhere where there is no room; what is in them is left over from before. */
export function kernelDoubles(count: number): Float64Array {
  const bytes = kernelBytes(8 * count, FOR_PICTURES);
  if (!bytes) return new Float64Array(count);
  const doubles = new Float64Array(bytes.buffer, bytes.byteOffset, count);
  over.set(doubles, bytes);
  return doubles;
}

/** So many floats where the kernels reach them; elsewhere where there is no room. */
export function kernelFloats(count: number): Float32Array {
  const bytes = kernelBytes(4 * count, FOR_PICTURES);
  return bytes ? floatsOver(bytes, count) : new Float32Array(count);
}

/** Views of bytes that keep them from being given back. */
const over = new WeakMap<Float32Array | Float64Array, Uint8Array>();

function floatsOver(bytes: Uint8Array, count: number): Float32Array {
  const floats = new Float32Array(bytes.buffer, bytes.byteOffset, count);
  over.set(floats, bytes);
  return floats;
}

function release(block: { at: number; size: number }): void {
  const next = free.findIndex((b) => b.at > block.at);
  free.splice(next < 0 ? free.length : next, 0, { ...block });
  free = free.reduce<typeof free>((joined, b) => {
    const last = joined[joined.length - 1];
    if (last && last.at + last.size === b.at) last.size += b.size;
    else if (b.size > 0) joined.push(b);
    return joined;
  }, []);
}

/** Where bytes lie in the kernels' memory; -1 when they lie elsewhere. */
export function addressOf(all: Kernels, data: Uint8Array | Float32Array | Float64Array): number {
  return data.buffer === (all.buffer as unknown as ArrayBufferLike) ? data.byteOffset : -1;
}

/** True for bytes that the kernels reach. */
export function isKernelBytes(data: Uint8Array): boolean {
  const all = kernels();
  return all !== null && addressOf(all, data) >= 0;
}
