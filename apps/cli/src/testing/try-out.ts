import { execFile } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { ffmpegPath } from '@lurn/engine';
import { run } from '../run.js';

export const exec = promisify(execFile);
let folder: string;
/** A file of the folder that a test works in. */
export const at = (name: string) => join(folder, name);

/** Runs a command as it would be typed. */
export async function lurn(...argv: string[]): Promise<{ status: number; out: string; err: string }> {
  let out = '';
  let err = '';
  const signal = new AbortController().signal;
  const status = await run(argv, { signal, out: (t) => (out += t), err: (t) => (err += t), progress: false });
  return { status, out, err };
}

/** Where the picture of a frame of `clip.mp4` lies against that of frame 0. */
export const moved = (frame: number): [number, number] => [-4 * (frame % 3), -2 * (frame % 2)];

/** Makes the folder, with `clip.mp4`, 12 frames of 320 x 180, and `spots.json`, two spots on it. */
export async function setOut(): Promise<void> {
  folder = await mkdtemp(join(tmpdir(), 'lurn-cli-'));
  // A still test picture seen through a crop that shakes by whole pixels, so that the motion is known.
  const surface = '128+50*sin(X/5+Y/17)*cos(Y/6)+40*sin(X*Y/400)';
  const crop = 'crop=320:180:20+4*mod(n\\,3):10+2*mod(n\\,2)';
  await exec(await ffmpegPath(), [
    ...[
      '-y',
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      `nullsrc=size=400x220:rate=25:duration=1,format=gray,geq=lum='${surface}'`,
    ],
    ...[
      '-vf',
      crop,
      '-frames:v',
      '12',
      '-c:v',
      'libx264',
      '-pix_fmt',
      'yuv420p',
      '-crf',
      '5',
      at('clip.mp4'),
    ],
  ]);
  await writeFile(
    at('spots.json'),
    JSON.stringify({
      spots: [
        { name: 'left', frame: 0, x: 120, y: 90, patch: [12, 12], reach: [14, 12] },
        { name: 'right', frame: 5, x: 190, y: 88, patch: [12, 12], reach: [14, 12] },
      ],
    }),
  );
}

export const clearUp = () => rm(folder, { recursive: true, force: true });
