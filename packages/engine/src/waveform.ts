import { createReadStream } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import type { Sideline } from './frame-index.js';
import { asFile } from './tools.js';

/** Samples a second of the sound that a waveform is made of, and levels a second of the waveform. */
const SAMPLES = 4000;
export const LEVELS = 50;

/**
 * Writes the sound on the way as one channel of unsigned bytes, {@link SAMPLES} a second, the picture's first moment at
 * its beginning.
 *
 * @param zero  seconds from the file's beginning to the first picture
 */
export const soundSideline = (zero: number, file: string): Sideline => ({
  of: 'sound',
  output: [
    ...['-ac', '1', '-af', `aresample=${SAMPLES}:async=1:first_pts=${Math.round(zero * SAMPLES)}`],
    ...['-f', 'u8', asFile(file)],
  ],
});

/**
 * Makes a waveform of such a file: one byte a fiftieth of a second, the loudest distance from silence in it, 0 to 128.
 *
 * @returns how many there are
 */
export async function makeWaveform(sound: string, file: string): Promise<number> {
  const each = SAMPLES / LEVELS;
  const levels: number[] = [];
  let [count, loudest] = [0, 0];
  for await (const chunk of createReadStream(sound)) {
    for (const sample of chunk as Buffer) {
      loudest = Math.max(loudest, Math.abs(sample - 128));
      if (++count % each > 0) continue;
      levels.push(loudest);
      loudest = 0;
    }
  }
  if (count % each > 0) levels.push(loudest);
  await writeFile(file, Uint8Array.from(levels));
  return levels.length;
}
