import {
  codedToUpright,
  colourInPlanes,
  invert,
  LurnError,
  multiply,
  parseColour,
  stoppedError,
  type Donor,
  type Matrix3,
  type Size,
} from '@lurn/core';
import type { ClipInfo, Edges } from '@lurn/model';
import { Decoder, isRgb, planarSize } from '../decode.js';
import { Encoder } from './encoder.js';
import { WarpPool } from './warp-pool.js';

export interface RenderRequest {
  readonly source: string;
  readonly info: ClipInfo;
  readonly times: Float64Array;
  /** Where the finished file goes. */
  readonly file: string;
  /** First and last frame, both included. */
  readonly from: number;
  readonly to: number;
  /** Size of the delivered picture, upright. */
  readonly delivery: Size;
  /** F S of a frame: upright source pixels to upright delivered pixels. */
  readonly picture: (frame: number) => Matrix3;
  readonly edges: Edges;
  /** From which frames a frame's edges are borrowed: delivered pixels to their source pixels. */
  readonly donors: (frame: number) => readonly Donor[];
  /** Constant rate factor of x264. */
  readonly crf: number;
  readonly preset?: string;
  readonly signal?: AbortSignal;
  readonly onProgress?: (done: number, total: number) => void;
}

/**
 * Renders the steadied picture: ffmpeg decodes to planes, worker threads warp them, ffmpeg encodes. The colour
 * planes are never converted. A fixed number of frames is in memory at a time, whatever the length.
 *
 * With borrowed edges the frames that are borrowed from are read first and kept as well.
 *
 * @throws LurnError `stopped`, `disk-full`, `encode-failed`, `frame-unreadable`, `no-alpha`; no half file is left.
 */
export async function render(request: RenderRequest): Promise<void> {
  const { source, info, times, file, from, to, picture, signal, onProgress } = request;
  const { codedSize, outputSize, uprightToCoded, outputToUpright } = geometry(info, request.delivery);
  const alpha = request.edges.mode === 'transparent';
  const colour = colourInPlanes(parseColour(request.edges.colour), codeOf(info), info.height);
  const pool = new WarpPool();
  let decoder: Decoder | null = null;
  let encoder: Encoder | null = null;
  try {
    const lent = await readDonors(request);
    const lend = (frame: number) =>
      request.donors(frame).map((d) => ({
        planes: lent.get(d.frame)!,
        outputToSource: multiply(uprightToCoded, multiply(d.toSource, outputToUpright)),
      }));
    decoder = await Decoder.open(source, info, { from, to }, 'planes', signal);
    encoder = await Encoder.open(
      file,
      source,
      info,
      times,
      { from, to },
      {
        width: outputSize[0],
        height: outputSize[1],
        crf: request.crf,
        preset: request.preset ?? 'medium',
        alpha,
      },
      signal,
    );
    const slots = Array.from({ length: pool.size + 2 }, () => ({
      source: new SharedArrayBuffer(decoder!.frameSize),
      output: new SharedArrayBuffer(planarSize(...outputSize) + (alpha ? outputSize[0] * outputSize[1] : 0)),
      free: Promise.resolve(),
    }));
    let written: Promise<void> = Promise.resolve();
    const total = to - from + 1;
    for (let frame = from; frame <= to; frame++) {
      const slot = slots[frame % slots.length];
      await slot.free;
      if (signal?.aborted) throw stoppedError('Rendering');
      if (!(await decoder.read(new Uint8Array(slot.source)))) {
        if (signal?.aborted) throw stoppedError('Rendering');
        throw new LurnError(
          'frame-unreadable',
          `Frame ${frame} of the original could not be decoded. ${decoder.complaint.trim().split('\n')[0]}`,
        );
      }
      const matrix = multiply(uprightToCoded, multiply(invert(picture(frame)), outputToUpright));
      const warped = pool.warp({
        planes: slot.source,
        output: slot.output,
        sourceSize: codedSize,
        outputSize,
        outputToSource: matrix,
        siting: info.colour.siting,
        edges: request.edges.mode,
        colour,
        donors: lend(frame),
      });
      const before = written;
      const done = frame - from + 1;
      written = slot.free = (async () => {
        await Promise.all([before, warped]);
        await encoder!.write(new Uint8Array(slot.output));
        onProgress?.(done, total);
      })();
      written.catch(() => undefined);
    }
    await written;
    await encoder.finish();
  } catch (error) {
    await encoder?.discard();
    throw error;
  } finally {
    decoder?.close();
    await pool.close();
  }
}

/** How the planes that are warped code their colour. */
function codeOf(info: ClipInfo): ClipInfo['colour'] {
  return isRgb(info) ? { ...info.colour, range: 'tv', space: 'bt709' } : info.colour;
}

/** The frames that are borrowed from, each once, in shared memory. */
async function readDonors(request: RenderRequest): Promise<Map<number, SharedArrayBuffer>> {
  const { source, info, from, to, signal } = request;
  const wanted = new Set<number>();
  for (let f = from; f <= to; f++) for (const d of request.donors(f)) wanted.add(d.frame);
  const out = new Map<number, SharedArrayBuffer>();
  if (wanted.size === 0) return out;
  const [first, last] = [Math.min(...wanted), Math.max(...wanted)];
  const decoder = await Decoder.open(source, info, { from: first, to: last }, 'planes', signal);
  try {
    const passing = new Uint8Array(decoder.frameSize);
    for (let f = first; f <= last; f++) {
      const memory = wanted.has(f) ? new SharedArrayBuffer(decoder.frameSize) : null;
      if (!(await decoder.read(memory ? new Uint8Array(memory) : passing))) {
        if (signal?.aborted) throw stoppedError('Rendering');
        throw new LurnError('frame-unreadable', `Frame ${f}, to borrow edges from, could not be decoded.`);
      }
      if (memory) out.set(f, memory);
    }
  } finally {
    decoder.close();
  }
  return out;
}

/** Sizes and turns between upright pictures, in which everything is told, and coded ones, which are warped. */
function geometry(
  info: ClipInfo,
  delivery: Size,
): {
  codedSize: [number, number];
  outputSize: [number, number];
  uprightToCoded: Matrix3;
  outputToUpright: Matrix3;
} {
  const { width, height, turns } = info;
  const coded = (w: number, h: number): [number, number] => (turns % 2 ? [h, w] : [w, h]);
  // H.264 with 4:2:0 has even sizes only: an odd last row or column is cut off.
  const outputSize = coded(delivery.width & ~1, delivery.height & ~1);
  const [ow, oh] = coded(...outputSize);
  return {
    codedSize: coded(width, height),
    outputSize,
    uprightToCoded: invert(codedToUpright(turns, width, height)),
    outputToUpright: codedToUpright(turns, ow, oh),
  };
}
