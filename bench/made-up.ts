import { createHash } from 'node:crypto';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { apply, composeSimilarity, type Matrix3, type Point } from '@lurn/core/geometry';
import { planeOver, type Channel, type Plane } from '@lurn/core/picture';
import { smallestEigenvalue, type FrameSource } from '@lurn/core/track';
import { ffmpegPath } from '@lurn/engine';
import {
  normal,
  randomNumbers,
  speckledSurface,
  takePicture,
  type Surface,
} from '../packages/core/src/testing/footage.js';
import { masonrySurface, signedSurface } from '../packages/core/src/testing/surfaces.js';

/** Made-up footage of several textures with exact truth, for measuring the tracker: short shots held in memory. */

export const WIDTH = 360;
export const HEIGHT = 270;
export const FRAMES = 150;

export interface MadeUp {
  readonly name: string;
  readonly planes: readonly Plane[];
  /** Where a place of frame 0 is on another frame. */
  readonly truth: (at: Point, frame: number) => Point;
  /** True where something stands in front of a place on a frame. */
  readonly hidden: (at: Point, frame: number, margin: number) => boolean;
}

export const SURFACES: Record<string, Surface> = {
  speckle: speckledSurface(11),
  signs: signedSurface(12),
  masonry: masonrySurface(13),
  'other speckle': speckledSurface(51),
  'other signs': signedSurface(52),
  'other masonry': masonrySurface(53),
};

interface Kind {
  readonly noise: number;
  readonly flicker?: number;
  readonly blur?: boolean;
  readonly crf?: number;
  readonly turn?: number;
  readonly grow?: number;
  readonly bar?: boolean;
  readonly quantiser?: number;
}

export const KINDS: Record<string, Kind> = {
  clean: { noise: 0 },
  moderate: { noise: 3 },
  compressed: { noise: 2, crf: 23 },
  heavy: { noise: 6, flicker: 0.18, blur: true, crf: 23 },
  'turning and growing': { noise: 2, turn: Math.PI / 6, grow: 1.6 },
  hidden: { noise: 2, bar: true },
  'hidden, heavy': { noise: 5, bar: true, flicker: 0.1, crf: 26 },
  noisy: { noise: 11 },
  quantised: { noise: 3, quantiser: 14, turn: 0.15 },
};

/** The places of a picture that are best to track, well inside it and apart. */
export function goodPlaces({ data, stride }: Plane, count: number): Point[] {
  const list: { x: number; y: number; grip: number }[] = [];
  for (let y = 60; y < HEIGHT - 60; y += 3) {
    for (let x = 60; x < WIDTH - 60; x += 3) {
      let [a, b, c] = [0, 0, 0];
      for (let j = -12; j <= 12; j++) {
        for (let i = -12; i <= 12; i++) {
          const p = (y + j) * stride + x + i;
          const gx = (data[p + 1] - data[p - 1]) / 2;
          const gy = (data[p + stride] - data[p - stride]) / 2;
          a += gx * gx;
          b += gx * gy;
          c += gy * gy;
        }
      }
      list.push({ x: x + 0.3, y: y + 0.7, grip: smallestEigenvalue(a, b, c) });
    }
  }
  const out: Point[] = [];
  for (const p of list.sort((p, q) => q.grip - p.grip)) {
    if (out.length < count && out.every((q) => Math.hypot(p.x - q.x, p.y - q.y) > 32)) out.push(p);
  }
  return out;
}

const CENTRE = { x: WIDTH / 2, y: HEIGHT / 2 };

function motions(seed: number, { turn = 0, grow = 1 }: Kind): Matrix3[] {
  const random = randomNumbers(seed);
  const waves = Array.from({ length: 6 }, () => ({
    f: 0.02 + 0.12 * random(),
    p: 6.28 * random(),
    a: 1 + 3 * random(),
    b: 6.28 * random(),
  }));
  const sum = (t: number, key: 'p' | 'b') =>
    waves.reduce((s, w) => s + w.a * (Math.sin(6.28 * w.f * t + w[key]) - Math.sin(w[key])), 0);
  return Array.from({ length: FRAMES }, (_, t) =>
    composeSimilarity(
      t === 0
        ? { x: 0, y: 0, rotation: 0, logScale: 0 }
        : {
            x: sum(t, 'p') + 0.7 * normal(random),
            y: 0.7 * sum(t, 'b') + 0.5 * normal(random),
            rotation: 0.006 * Math.sin(t / 5) + (turn * t) / FRAMES,
            logScale: 0.004 * Math.sin(t / 7) + (Math.log(grow) * t) / FRAMES,
          },
      CENTRE,
    ),
  );
}

/** A post that crosses the picture, three spots wide, so that each place is hidden for some fifteen frames. */
const barAt = (frame: number) => -40 + ((WIDTH + 80) * frame) / FRAMES;
const BAR = 21;

export async function makeUp(surfaceName: string, kindName: string): Promise<MadeUp> {
  const kind = KINDS[kindName];
  const surface = SURFACES[surfaceName];
  const motion = motions(surfaceName.length * 7 + kindName.length, kind);
  const until = motion.map((m, t) => {
    const next = motion[Math.min(FRAMES - 1, t + 1)];
    return m.map((v, k) => v + 0.5 * (next[k] - v)) as unknown as Matrix3;
  });
  const random = randomNumbers(5);
  const flickers = motion.map(() => 1 + (kind.flicker ?? 0) * (2 * random() - 1));
  const folder = join(tmpdir(), 'lurn-made-up');
  mkdirSync(folder, { recursive: true });
  const source = ['packages/core/src/testing/footage.ts', 'packages/core/src/testing/surfaces.ts'].map((f) =>
    readFileSync(f, 'utf8'),
  );
  const key = createHash('sha1')
    .update(JSON.stringify([surfaceName, kind, motion, source]))
    .digest('hex')
    .slice(0, 12);
  const file = join(folder, `${key}.gray`);
  const size = WIDTH * HEIGHT;
  if (!existsSync(file)) {
    const all = Buffer.alloc(size * FRAMES);
    motion.forEach((m, t) => {
      const bar = barAt(t);
      const plane = takePicture(surface, m, WIDTH, HEIGHT, {
        noise: kind.noise,
        gain: flickers[t],
        seed: 1000 + t,
        until: kind.blur ? until[t] : undefined,
        quantiser: kind.quantiser,
        front: kind.bar ? (x, y) => (Math.abs(x - bar) < BAR ? 70 + 12 * Math.sin(y / 9) : null) : undefined,
      });
      all.set(plane.data, t * size);
    });
    writeFileSync(file, kind.crf ? await through(all, kind.crf) : all);
  }
  const bytes = readFileSync(file);
  const seen = (t: number) =>
    kind.blur ? (motion[t].map((v, k) => v + 0.4 * (until[t][k] - v)) as unknown as Matrix3) : motion[t];
  const back = inverseOf(seen(0));
  const truth = (at: Point, t: number) => {
    const p = apply(back, at.x, at.y);
    return apply(seen(t), p.x, p.y);
  };
  return {
    name: `${surfaceName}, ${kindName}`,
    planes: motion.map((_, t) => planeOver(bytes.subarray(t * size, (t + 1) * size), WIDTH, HEIGHT)),
    truth,
    hidden: (at, t, margin) => kind.bar === true && Math.abs(truth(at, t).x - barAt(t)) < BAR + margin,
  };
}

function inverseOf([a, b, c, d, e, f]: Matrix3): Matrix3 {
  const det = a * e - b * d;
  return [e / det, -b / det, (b * f - c * e) / det, -d / det, a / det, (c * d - a * f) / det, 0, 0, 1];
}

/** What an H.264 encoder leaves of the footage. */
async function through(gray: Buffer, crf: number): Promise<Buffer> {
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'gray', '-s', `${WIDTH}x${HEIGHT}`, '-r', '30'];
  const tool = await ffmpegPath();
  const options = { maxBuffer: 1e9, stdio: ['pipe', 'pipe', 'inherit'] as ['pipe', 'pipe', 'inherit'] };
  const coded = execFileSync(
    tool,
    [
      '-v',
      'error',
      ...raw,
      '-i',
      '-',
      '-pix_fmt',
      'yuv420p',
      '-c:v',
      'libx264',
      '-crf',
      String(crf),
      '-f',
      'matroska',
      '-',
    ],
    { ...options, input: gray },
  );
  return execFileSync(tool, ['-v', 'error', '-i', '-', '-vf', 'extractplanes=y', '-f', 'rawvideo', '-'], {
    ...options,
    input: coded,
  });
}

/** Planes in memory as the tracker reads them. */
export class InMemory implements FrameSource {
  constructor(private readonly planes: readonly Plane[]) {}

  plane(frame: number, _channel: Channel): Promise<Plane> {
    return Promise.resolve(this.planes[frame]);
  }
}
