import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Point } from '@lurn/core/geometry';
import { createPlane } from '@lurn/core/picture';
import {
  normal,
  randomNumbers,
  speckledSurface,
  type Surface,
} from '../packages/core/src/testing/footage.js';
import { masonrySurface, signedSurface } from '../packages/core/src/testing/surfaces.js';
import { encodeGrey } from './encode.js';

/** Made-up shots of a cloth that swells, shears and ripples before a background, with exact truth. */

const FPS = 30;
/** The cloth in its own coordinates. */
export const [CLOTH_ACROSS, CLOTH_DOWN] = [420, 330];

export interface ClothClip {
  readonly kind: string;
  readonly file: string;
  readonly width: number;
  readonly height: number;
  readonly frames: number;
  /** Where a place of the cloth is on a frame, in pixels; null where something hides it. */
  readonly truth: (u: number, v: number, frame: number) => Point | null;
  /** What of the cloth is at a place of frame 0. */
  readonly cloth: (at: Point) => Point;
  /** An outline a little within the cloth's rim, on frame 0. */
  readonly outline: readonly Point[];
}

interface Look {
  readonly frames: number;
  readonly noise: number;
  readonly crf: number;
  readonly flicker?: number;
  /** Pixels of the picture for each unit of the cloth. */
  readonly size?: number;
  /** Width of the picture, in units. */
  readonly across?: number;
  /** Most that it ripples, in units. */
  readonly ripple?: number;
  /** How far the wave's crests are apart, in units. */
  readonly wave?: number;
  /** Its texture fades, to a tenth, towards its upper rim, over so many units. */
  readonly plain?: number;
  /** True where something stands in front of a place of the picture. */
  readonly hand?: (x: number, y: number, t: number) => boolean;
  /** Width of the strip that a fold hides, in units. */
  readonly fold?: (t: number) => number;
}

const rise = (t: number, from: number, to: number) => {
  const s = Math.min(1, Math.max(0, (t - from) / (to - from)));
  return s * s * (3 - 2 * s);
};
const FOLD_AT = 210;
/** How far within the cloth it is drawn round. */
const RIM = 4;

/** The picture in units. */
const [ACROSS, DOWN] = [640, 420];

const LOOKS: Record<string, Look> = {
  cloth: { frames: 150, noise: 2, crf: 14 },
  'short waves': { frames: 100, noise: 2, crf: 14, wave: 170, ripple: 9 },
  'plain rim': { frames: 60, noise: 6, crf: 23, plain: 70 },
  heavy: { frames: 150, noise: 6, crf: 23, flicker: 0.18 },
  hand: {
    ...{ frames: 110, noise: 2, crf: 14 },
    hand: (x, _, t) => t >= 50 && t < 70 && Math.abs(x - 200 - 2 * (t - 50)) < 75,
  },
  fold: {
    ...{ frames: 120, noise: 2, crf: 14 },
    fold: (t) => 46 * (rise(t, 30, 50) - rise(t, 70, 90)),
  },
  large: { frames: 40, noise: 2, crf: 18, size: 1080 / DOWN, across: (DOWN * 16) / 9 },
  playing: { frames: 120, noise: 2, crf: 18, size: 720 / DOWN, across: (DOWN * 16) / 9 },
};

/** Those whose accuracy is told; the others are for speed. */
export const CLOTH_KINDS = Object.keys(LOOKS).filter((kind) => !['large', 'playing'].includes(kind));

const TEXTURES: readonly ((seed: number) => Surface)[] = [
  (s) => speckledSurface(s),
  (s) => signedSurface(s),
  (s) => masonrySurface(s),
];

/** Where a place of an unfolded cloth is, in units of the picture. */
function rippled(u: number, v: number, t: number, seed: number, { ripple = 14, wave = 260 }: Look): Point {
  const p = seed * 1.3;
  const [x, y] = [u - CLOTH_ACROSS / 2, v - CLOTH_DOWN / 2];
  const swell = 1 + 0.05 * Math.sin(t / 19 + p) - 0.05 * Math.sin(p);
  const shear = 0.06 * Math.sin(t / 23 + p);
  const k = (2 * Math.PI) / wave;
  const grown = Math.min(1, t / 12);
  const across = 0.55 * ripple * Math.sin(k * (0.9 * u + 0.4 * v) - t / 6 + p);
  const down = 0.75 * ripple * Math.sin(k * (0.8 * u - 0.5 * v) - t / 7.5 + 2 * p);
  const shakeX = 14 * Math.sin(t / 17 + p) + 1.6 * Math.sin(t * 0.9 + p) + 0.8 * Math.sin(t * 2.1);
  const shakeY = 9 * Math.cos(t / 13 + p) + 1.3 * Math.sin(t * 1.3) + 0.7 * Math.sin(t * 2.4 + p);
  return {
    x: 320 + shakeX + swell * x + shear * y + grown * across,
    y: 210 + shakeY + swell * y + 0.4 * shear * x + grown * down,
  };
}

const sizeOf = ({ size = 1, across = ACROSS }: Look) => [Math.round(across * size), Math.round(DOWN * size)];

export async function clothClip(kind: string, seed: number): Promise<ClothClip> {
  const look = LOOKS[kind];
  const size = look.size ?? 1;
  const [width, height] = sizeOf(look);
  const folder = join(tmpdir(), 'lurn-cloth');
  mkdirSync(folder, { recursive: true });
  const source = readFileSync(new URL(import.meta.url), 'utf8');
  const key = createHash('sha1')
    .update(JSON.stringify([kind, seed, source]))
    .digest('hex')
    .slice(0, 10);
  const file = join(folder, `${kind.replace(' ', '-')}-${seed}-${key}.mp4`);
  if (!existsSync(file)) await encodeGrey(file, { width, height, fps: FPS, crf: look.crf }, film(look, seed));
  const truth = (u: number, v: number, frame: number) => {
    const hidden = look.fold?.(frame) ?? 0;
    if (u > FOLD_AT && u < FOLD_AT + hidden) return null;
    const at = rippled(u > FOLD_AT ? u - hidden : u, v, frame, seed, look);
    return look.hand?.(at.x, at.y, frame) ? null : { x: at.x * size, y: at.y * size };
  };
  const cloth = (at: Point) => {
    let [u, v] = [at.x / size - 110, at.y / size - 45];
    for (let k = 0; k < 60; k++) {
      const p = truth(u, v, 0)!;
      u += (at.x - p.x) / size;
      v += (at.y - p.y) / size;
    }
    return { x: u, y: v };
  };
  const rim = [
    [RIM, RIM],
    [CLOTH_ACROSS - RIM, RIM],
    [CLOTH_ACROSS - RIM, CLOTH_DOWN - RIM],
    [RIM, CLOTH_DOWN - RIM],
  ];
  const outline = rim.flatMap(([u, v], i) => {
    const [w, z] = rim[(i + 1) % 4];
    return Array.from({ length: 8 }, (_, k) => truth(u + ((w - u) * k) / 8, v + ((z - v) * k) / 8, 0)!);
  });
  return { kind, file, width, height, frames: look.frames, truth, cloth, outline };
}

const PLAIN = 118;
const faded = (value: number, v: number, { plain = 0 }: Look) =>
  plain > 0 ? PLAIN + (value - PLAIN) * (0.1 + 0.9 * rise(v, plain / 3, plain)) : value;

function* film(look: Look, seed: number): Generator<Uint8Array> {
  const cloth = TEXTURES[seed % TEXTURES.length](seed + 20);
  const ground = speckledSurface(seed + 70);
  const sleeve = speckledSurface(seed + 90);
  const random = randomNumbers(seed + 5);
  const size = look.size ?? 1;
  const [width, height] = sizeOf(look);
  for (let t = 0; t < look.frames; t++) {
    const plane = createPlane(width, height);
    const gain = 1 + (look.flicker ?? 0) * Math.sin(t * 1.7);
    const hidden = look.fold?.(t) ?? 0;
    for (let y = 0; y < height; y++) {
      let [u, v] = [0, 0];
      for (let x = 0; x < width; x++) {
        const [px, py] = [(x + 0.5) / size, (y + 0.5) / size];
        let value: number;
        if (look.hand?.(px, py, t)) value = sleeve(px + 2 * t, py);
        else {
          if (x === 0) [u, v] = [px - 110, py - 45];
          for (let k = 0; k < 40; k++) {
            const at = rippled(u, v, t, seed, look);
            const [dx, dy] = [px - at.x, py - at.y];
            u += dx;
            v += dy;
            if (dx * dx + dy * dy < 1e-8) break;
          }
          const own = u > FOLD_AT ? u + hidden : u;
          const inside = own > 0 && v > 0 && own < CLOTH_ACROSS && v < CLOTH_DOWN;
          value = inside ? faded(cloth(own, v), v, look) : 0.6 * ground(0.7 * px + t, 0.7 * py);
        }
        value = gain * value + (look.noise ? look.noise * normal(random) : 0);
        plane.data[y * width + x] = Math.min(255, Math.max(0, Math.round(value)));
      }
    }
    yield plane.data;
  }
}
