import { codedToUpright, invert, multiply, LurnError, stoppedError, type Matrix3 } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { Decoder, planarSize } from '../decode.js';
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
  /** F S of a frame: upright source pixels to upright output pixels of the same size. */
  readonly picture: (frame: number) => Matrix3;
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
 * @throws LurnError `stopped`, `disk-full`, `encode-failed`, `frame-unreadable`; no half file is left.
 */
export async function render(request: RenderRequest): Promise<void> {
  const { source, info, times, file, from, to, picture, signal, onProgress } = request;
  const { codedSize, outputSize, uprightToCoded, outputToUpright } = geometry(info);
  const pool = new WarpPool();
  let decoder: Decoder | null = null;
  let encoder: Encoder | null = null;
  try {
    decoder = await Decoder.open(source, info, { from, to }, 'planes', signal);
    encoder = await Encoder.open(
      file,
      source,
      info,
      times,
      { from, to },
      { width: outputSize[0], height: outputSize[1], crf: request.crf, preset: request.preset ?? 'medium' },
      signal,
    );
    const slots = Array.from({ length: pool.size + 2 }, () => ({
      source: new SharedArrayBuffer(decoder!.frameSize),
      output: new SharedArrayBuffer(planarSize(...outputSize)),
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
        source: slot.source,
        output: slot.output,
        sourceSize: codedSize,
        outputSize,
        outputToSource: matrix,
        siting: info.colour.siting,
        black: info.colour.range === 'pc' ? 0 : 16,
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

/** Sizes and turns between upright pictures, in which everything is told, and coded ones, which are warped. */
function geometry(info: ClipInfo): {
  codedSize: [number, number];
  outputSize: [number, number];
  uprightToCoded: Matrix3;
  outputToUpright: Matrix3;
} {
  const { width, height, turns } = info;
  const codedSize: [number, number] = turns % 2 ? [height, width] : [width, height];
  // H.264 with 4:2:0 has even sizes only: an odd last row or column is cut off.
  const outputSize: [number, number] = [codedSize[0] & ~1, codedSize[1] & ~1];
  return {
    codedSize,
    outputSize,
    uprightToCoded: invert(codedToUpright(turns, width, height)),
    outputToUpright: codedToUpright(
      turns,
      turns % 2 ? outputSize[1] : outputSize[0],
      turns % 2 ? outputSize[0] : outputSize[1],
    ),
  };
}
