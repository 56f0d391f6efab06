import { execFile, spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, renameSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import {
  apply,
  composeSimilarity,
  invert,
  matrixWarp,
  multiply,
  translation,
  type Matrix3,
  type Point,
} from '@lurn/core/geometry';
import { createPlane } from '@lurn/core/picture';
import { warpPlane } from '@lurn/core/warp';
import { ffmpegPath } from '@lurn/engine';
import { randomNumbers, speckledSurface } from '../packages/core/src/testing/footage.js';
import { masonrySurface } from '../packages/core/src/testing/surfaces.js';

/** Clips of any size with a known motion: one made-up wall, drawn once and moved by the renderer's own warp. */

export interface SpeedClip {
  readonly file: string;
  readonly width: number;
  readonly height: number;
  readonly frames: number;
  /** Where a place of frame 0 is on another frame. */
  readonly truth: (at: Point, frame: number) => Point;
}

/** Room round the picture, as a part of it. */
const ROOM = 0.08;

export async function speedClip(width: number, height: number, frames: number): Promise<SpeedClip> {
  const motion = shake(width, height, frames);
  const truth = (at: Point, frame: number) => {
    const back = apply(invert(motion[0]), at.x, at.y);
    return apply(motion[frame], back.x, back.y);
  };
  const folder = join(tmpdir(), 'lurn-speed');
  mkdirSync(folder, { recursive: true });
  const key = createHash('sha1')
    .update(JSON.stringify([width, height, motion, 'wall 1']))
    .digest('hex')
    .slice(0, 10);
  const file = join(folder, `${width}x${height}-${frames}-${key}.mp4`);
  if (!existsSync(file)) await film(file, width, height, motion);
  return { file, width, height, frames, truth };
}

/** From the wall, its upper left at the picture's, to each frame. */
function shake(width: number, height: number, frames: number): Matrix3[] {
  const random = randomNumbers(width + frames);
  const waves = Array.from({ length: 5 }, () => [0.02 + 0.1 * random(), 6.28 * random(), 6.28 * random()]);
  const size = height / 180;
  const sum = (t: number, k: 1 | 2) => waves.reduce((s, w) => s + size * Math.sin(6.28 * w[0] * t + w[k]), 0);
  const middle = { x: width / 2, y: height / 2 };
  const room = translation(-ROOM * width, -ROOM * height);
  return Array.from({ length: frames }, (_, t) => {
    const turn = { rotation: 0.006 * Math.sin(t / 5), logScale: 0.004 * Math.sin(t / 7) };
    return multiply(composeSimilarity({ x: sum(t, 1), y: 0.7 * sum(t, 2), ...turn }, middle), room);
  });
}

async function film(file: string, width: number, height: number, motion: readonly Matrix3[]): Promise<void> {
  const wall = createPlane(Math.ceil(width * (1 + 2 * ROOM)), Math.ceil(height * (1 + 2 * ROOM)));
  const [rough, stones] = [speckledSurface(61), masonrySurface(62)];
  for (let y = 0; y < wall.height; y++) {
    for (let x = 0; x < wall.width; x++) {
      const v = 0.5 * (rough(x + 0.5, y + 0.5) + stones(x + 0.5, y + 0.5));
      wall.data[y * wall.stride + x] = Math.max(16, Math.min(235, v));
    }
  }
  const part = `${file}.part.mp4`;
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'gray', '-s', `${width}x${height}`, '-r', '30', '-i', '-'];
  const noise = ['-vf', 'noise=c0s=9:c0f=t,format=yuv420p'];
  const code = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '20', '-color_range', 'tv'];
  const tool = spawn(await ffmpegPath(), ['-y', '-v', 'error', ...raw, ...noise, ...code, part], {
    stdio: ['pipe', 'inherit', 'inherit'],
  });
  const plane = createPlane(width, height);
  for (const m of motion) {
    warpPlane(wall, plane, matrixWarp(invert(m)), 'mirrored');
    if (!tool.stdin.write(Buffer.from(plane.data))) await once(tool.stdin, 'drain');
  }
  tool.stdin.end();
  await once(tool, 'close');
  renameSync(part, file);
}

const run = promisify(execFile);

/** The same clip again and again, without coding it anew. */
export async function repeated(clip: Pick<SpeedClip, 'file'>, times: number): Promise<string> {
  const file = clip.file.replace('.mp4', `-x${times}.mp4`);
  if (existsSync(file)) return file;
  const loop = ['-stream_loop', String(times - 1), '-i', clip.file, '-c', 'copy', `${file}.part.mp4`];
  try {
    await run(await ffmpegPath(), ['-y', '-v', 'error', ...loop]);
    renameSync(`${file}.part.mp4`, file);
  } finally {
    rmSync(`${file}.part.mp4`, { force: true });
  }
  return file;
}

/** Ten seconds of 1080p as phones film them: HEVC of ten bits, which pages cannot play. @returns its file */
export async function asPhonesFilm(): Promise<string> {
  const { file: wall } = await speedClip(1920, 1080, 300);
  const file = wall.replace('.mp4', '-hevc.mp4');
  if (existsSync(file)) return file;
  const code = ['-c:v', 'libx265', '-preset', 'ultrafast', '-crf', '22', '-x265-params', 'log-level=error'];
  const depth = ['-pix_fmt', 'yuv420p10le', '-tag:v', 'hvc1'];
  await run(await ffmpegPath(), ['-y', '-v', 'error', '-i', wall, ...code, ...depth, `${file}.part.mp4`]);
  renameSync(`${file}.part.mp4`, file);
  return file;
}
