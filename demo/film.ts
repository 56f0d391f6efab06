import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { apply, composeSimilarity, invert, type Matrix3, type SimilarityParts } from '@lurn/core/geometry';
import { ffmpegPath } from '@lurn/engine';
import type { Layer } from './layer.js';
import { normalTable, randomNumbers } from './noise.js';

type Place = readonly [x: number, y: number];

/** A sheet of scenery and where it is: parts of its motion at a time in seconds, about the picture's centre. */
export interface Sheet {
  readonly name: string;
  readonly layer: Layer;
  readonly pose: (seconds: number) => SimilarityParts;
  /** Of a sheet that leans: its own coordinates to the picture. Its pose is what it does nearly. */
  readonly plane?: (seconds: number) => Matrix3;
  /** Of a sheet that bends: where its places go in its own coordinates, the way back, and how much light falls there. */
  readonly bent?: {
    forth(x: number, y: number, seconds: number): Place;
    back(x: number, y: number, seconds: number): Place;
    light(x: number, y: number, seconds: number): number;
  };
  /** The part of the motion that was meant, where the rest is shake; told in the truth. */
  readonly meant?: (seconds: number) => SimilarityParts;
  /** Seconds from which, and until which, it is in the picture: all along when left out. */
  readonly from?: number;
  readonly until?: number;
}

export interface Scene {
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly fps: number;
  readonly frames: number;
  readonly seed: number;
  /** Back to front. */
  readonly sheets: readonly Sheet[];
  /** Fraction of the frame time that the shutter is open. */
  readonly shutter: number;
  /** Standard deviation of the grain in grey levels, in the middle tones. */
  readonly grain: number;
  /** Exposure flicker: standard deviation of the gain. */
  readonly flicker: number;
  readonly features: readonly {
    readonly name: string;
    readonly sheet: string;
    readonly x: number;
    readonly y: number;
  }[];
  readonly sound: string;
  readonly crf: number;
}

/** Scene coordinates of a sheet to the picture, at a time. */
export function poseMatrix(scene: Scene, sheet: Sheet, seconds: number): Matrix3 {
  return (
    sheet.plane?.(seconds) ??
    composeSimilarity(sheet.pose(seconds), { x: scene.width / 2, y: scene.height / 2 })
  );
}

/** The picture of frame i, red-green-blue, eight bits a channel. The truth of a frame is its mid-exposure. */
export function exposeFrame(scene: Scene, frame: number, grain: Float32Array): Uint8Array {
  const { width: w, height: h } = scene;
  const light = new Float32Array(w * h * 3);
  const exposures = 4;
  const mid = frame / scene.fps;
  const seen = scene.sheets.filter(({ from = -Infinity, until = Infinity }) => mid >= from && mid < until);
  for (let e = 0; e < exposures; e++) {
    const at = ((e + 0.5) / exposures - 0.5) * (scene.shutter / scene.fps);
    for (const sheet of seen) composite(light, scene, seen, sheet, mid, at, 1 / exposures, e);
  }
  const random = randomNumbers(scene.seed * 7919 + frame);
  const gain = 1 + scene.flicker * (random() + random() + random() - 1.5) * 2;
  let g = Math.floor(random() * grain.length);
  const out = new Uint8Array(w * h * 3);
  for (let y = 0, p = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const r2 = ((x - w / 2) ** 2 + (y - h / 2) ** 2) / ((w * w + h * h) / 4);
      const k = gain * (1 - 0.2 * r2 * r2);
      const common = grain[g++ % grain.length] * scene.grain;
      for (let c = 0; c < 3; c++, p++) {
        const own = grain[(g * 3 + c * 7777) % grain.length] * scene.grain * 0.45;
        out[p] = Math.min(255, Math.max(0, light[p] * k + common + own + 0.5));
      }
    }
  }
  return out;
}

/**
 * Adds a sheet to one of a frame's exposures. During the exposure the sheet moves straight from where it is at
 * mid-exposure, so that the middle of the blur is the truth exactly.
 */
function composite(
  light: Float32Array,
  scene: Scene,
  sheets: readonly Sheet[],
  sheet: Sheet,
  mid: number,
  offset: number,
  share: number,
  exposure: number,
): void {
  const { width: w, height: h } = scene;
  const { layer } = sheet;
  const here = poseMatrix(scene, sheet, mid);
  const before = sheet.pose(mid - 0.01);
  const after = sheet.pose(mid + 0.01);
  const m = invert(here);
  const vx = ((after.x - before.x) / 0.02) * offset;
  const vy = ((after.y - before.y) / 0.02) * offset;
  const opaque = sheet === sheets[0];
  const px = layer.pixels;
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const u = x + 0.5 - vx;
      const v = y + 0.5 - vy;
      const depth = m[6] * u + m[7] * v + m[8];
      let sx = (m[0] * u + m[1] * v + m[2]) / depth - layer.x - 0.5;
      let sy = (m[3] * u + m[4] * v + m[5]) / depth - layer.y - 0.5;
      let lit = 1;
      if (sheet.bent) {
        // What bends reaches a little beyond its sheet.
        const far = sx < -BENDS || sy < -BENDS || sx > layer.width + BENDS || sy > layer.height + BENDS;
        if (far) continue;
        const [bx, by] = sheet.bent.back(sx + layer.x + 0.5, sy + layer.y + 0.5, mid);
        [sx, sy] = [bx - layer.x - 0.5, by - layer.y - 0.5];
        lit = sheet.bent.light(bx, by, mid);
      }
      const ix = Math.floor(sx);
      const iy = Math.floor(sy);
      if (ix < 0 || iy < 0 || ix >= layer.width - 1 || iy >= layer.height - 1) continue;
      const fx = sx - ix;
      const fy = sy - iy;
      const p = (iy * layer.width + ix) * 4;
      const q = p + layer.width * 4;
      const w00 = (1 - fx) * (1 - fy);
      const w10 = fx * (1 - fy);
      const w01 = (1 - fx) * fy;
      const w11 = fx * fy;
      const a = opaque ? 1 : w00 * px[p + 3] + w10 * px[p + 7] + w01 * px[q + 3] + w11 * px[q + 7];
      if (a <= 0) continue;
      const to = (y * w + x) * 3;
      for (let c = 0; c < 3; c++) {
        const value = w00 * px[p + c] + w10 * px[p + 4 + c] + w01 * px[q + c] + w11 * px[q + 4 + c];
        // Each exposure's light is kept apart by scaling what this exposure has added so far.
        const prior = exposure === 0 ? 0 : done[to + c];
        const soFar = light[to + c] - prior;
        light[to + c] = prior + soFar * (1 - a) + value * share * lit;
      }
    }
  }
  if (sheet === sheets[sheets.length - 1]) {
    if (done.length !== light.length) done = new Float32Array(light.length);
    done.set(light);
  }
}

/** How far, in its own coordinates, a sheet may bend beyond itself. */
const BENDS = 60;

/** Light of the exposures of the present frame that are complete. */
let done = new Float32Array(0);

/** Exact truth of a scene, in the conventions' coordinates. */
export function truthOf(scene: Scene): object {
  const times = Array.from({ length: scene.frames }, (_, i) => i / scene.fps);
  const meant = scene.sheets.filter((s) => s.meant);
  return {
    clip: { width: scene.width, height: scene.height, frames: scene.frames, fps: scene.fps },
    about:
      'motion: scene coordinates -> frame coordinates at mid-exposure, row-major 3x3; meant: the same without the shake; features in pixels',
    motion: Object.fromEntries(scene.sheets.map((s) => [s.name, times.map((t) => poseMatrix(scene, s, t))])),
    ...(meant.length > 0 && {
      meant: Object.fromEntries(
        meant.map((s) => [s.name, times.map((t) => poseMatrix(scene, { ...s, pose: s.meant! }, t))]),
      ),
    }),
    features: scene.features.map((f) => {
      const sheet = scene.sheets.find((s) => s.name === f.sheet)!;
      return {
        name: f.name,
        on: f.sheet,
        positions: times.map((t) => {
          const [x, y] = sheet.bent?.forth(f.x, f.y, t) ?? [f.x, f.y];
          const p = apply(poseMatrix(scene, sheet, t), x, y);
          return [Math.round(p.x * 1e5) / 1e5, Math.round(p.y * 1e5) / 1e5];
        }),
      };
    }),
  };
}

/** Films a scene into an H.264 file with sound. */
export async function filmScene(scene: Scene, file: string): Promise<void> {
  const args = [
    '-y',
    '-v',
    'error',
    '-f',
    'rawvideo',
    '-pix_fmt',
    'rgb24',
    '-s',
    `${scene.width}x${scene.height}`,
    '-framerate',
    String(scene.fps),
    '-i',
    'pipe:0',
    '-i',
    scene.sound,
    '-map',
    '0:v',
    '-map',
    '1:a',
    '-vf',
    'scale=out_color_matrix=bt709:out_range=tv',
    '-pix_fmt',
    'yuv420p',
    '-colorspace',
    'bt709',
    '-color_primaries',
    'bt709',
    '-color_trc',
    'bt709',
    '-color_range',
    'tv',
    '-c:v',
    'libx264',
    '-preset',
    'slow',
    '-crf',
    String(scene.crf),
    '-g',
    '60',
    '-c:a',
    'aac',
    '-b:a',
    '128k',
    '-shortest',
    '-movflags',
    '+faststart',
    '-map_metadata',
    '-1',
    '-fflags',
    '+bitexact',
    file,
  ];
  const encoder = spawn(await ffmpegPath(), args, { stdio: ['pipe', 'inherit', 'inherit'] });
  const ended = once(encoder, 'close');
  const grain = normalTable(scene.seed, 1_000_003);
  for (let frame = 0; frame < scene.frames; frame++) {
    if (!encoder.stdin.write(exposeFrame(scene, frame, grain))) await once(encoder.stdin, 'drain');
    if (frame % 30 === 0) console.log(`${scene.name}: frame ${frame} of ${scene.frames}`);
  }
  encoder.stdin.end();
  const [code] = (await ended) as [number];
  if (code !== 0) throw new Error(`ffmpeg ended with ${code} for ${file}.`);
}

/** A hand-held wander: a few sines of seeded frequency and phase between `low` and `high` hertz, deviation 1. */
export function wander(seed: number, low: number, high: number, count = 7): (seconds: number) => number {
  const random = randomNumbers(seed);
  const waves = Array.from({ length: count }, () => {
    const f = low * (high / low) ** random();
    return { f, phase: 2 * Math.PI * random(), a: f ** -0.7 };
  });
  const rms = Math.sqrt(waves.reduce((s, { a }) => s + (a * a) / 2, 0));
  return (t) => waves.reduce((s, { f, phase, a }) => s + a * Math.sin(2 * Math.PI * f * t + phase), 0) / rms;
}
