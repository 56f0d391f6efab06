import { writeFile } from 'node:fs/promises';
import { randomNumbers } from './noise.js';

const RATE = 48000;

/** A station's sound: wind, the hum of the drive and a two-tone gong at the given seconds. */
export async function writeSound(
  file: string,
  seconds: number,
  gongs: readonly number[],
  seed: number,
): Promise<void> {
  const n = Math.round(seconds * RATE);
  const samples = new Float64Array(n);
  const random = randomNumbers(seed);
  let low = 0;
  let lower = 0;
  for (let i = 0; i < n; i++) {
    const t = i / RATE;
    low += 0.02 * (random() * 2 - 1 - low);
    lower += 0.004 * (low - lower);
    const gust = 0.6 + 0.4 * Math.sin(2 * Math.PI * 0.23 * t + seed);
    const hum = 0.02 * (Math.sin(2 * Math.PI * 98 * t) + 0.5 * Math.sin(2 * Math.PI * 196.4 * t));
    samples[i] = 1.4 * gust * lower * 4 + hum;
    gongs.forEach((start, k) => {
      const dt = t - start;
      if (dt < 0) return;
      const f = k % 2 ? 523.25 : 659.26;
      const envelope = Math.exp(-2.2 * dt) * Math.min(1, dt * 200);
      samples[i] +=
        0.22 *
        envelope *
        (Math.sin(2 * Math.PI * f * dt) + 0.4 * Math.sin(2 * Math.PI * 2.76 * f * dt) * Math.exp(-5 * dt));
    });
  }
  const wav = Buffer.alloc(44 + n * 2);
  wav.write('RIFF', 0);
  wav.writeUInt32LE(36 + n * 2, 4);
  wav.write('WAVEfmt ', 8);
  wav.writeUInt32LE(16, 16);
  wav.writeUInt16LE(1, 20);
  wav.writeUInt16LE(1, 22);
  wav.writeUInt32LE(RATE, 24);
  wav.writeUInt32LE(RATE * 2, 28);
  wav.writeUInt16LE(2, 32);
  wav.writeUInt16LE(16, 34);
  wav.write('data', 36);
  wav.writeUInt32LE(n * 2, 40);
  samples.forEach((v, i) => wav.writeInt16LE(Math.round(Math.max(-1, Math.min(1, v)) * 32000), 44 + i * 2));
  await writeFile(file, wav);
}
