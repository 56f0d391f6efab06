import { LurnError, stoppedError } from '@lurn/core';
import { framesOf, type Scene } from '@lurn/core/compose';
import type { ClipInfo } from '@lurn/model';
import { Decoder } from '../decode.js';
import type { SampleLayout } from '../layout.js';

/** The frames that scenes borrow edges or painted pieces from, each read once, in shared memory. @throws LurnError `frame-unreadable`, `stopped` */
export async function readLentFrames(
  source: string,
  info: ClipInfo,
  times: Float64Array,
  scenes: Iterable<Scene>,
  layout: SampleLayout,
  signal?: AbortSignal,
): Promise<Map<number, SharedArrayBuffer>> {
  const wanted = new Set<number>();
  for (const scene of scenes) for (const frame of framesOf(scene)) wanted.add(frame);
  const out = new Map<number, SharedArrayBuffer>();
  if (wanted.size === 0) return out;
  const [first, last] = [Math.min(...wanted), Math.max(...wanted)];
  const decoder = await Decoder.open(source, info, { from: first, to: last, times }, layout, signal);
  try {
    const passing = new Uint8Array(decoder.frameSize);
    for (let f = first; f <= last; f++) {
      const memory = wanted.has(f) ? new SharedArrayBuffer(decoder.frameSize) : null;
      if (!(await decoder.read(memory ? new Uint8Array(memory) : passing))) {
        if (signal?.aborted) throw stoppedError('Rendering');
        throw new LurnError('frame-unreadable', `Frame ${f}, to borrow from, could not be decoded.`);
      }
      if (memory) out.set(f, memory);
    }
  } finally {
    decoder.close();
  }
  return out;
}
