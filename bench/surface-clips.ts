import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  invert,
  matrixWarp,
  moveQuad,
  multiply,
  quadToQuad,
  rectangle,
  scaling,
  translation,
  type Quad,
} from '@lurn/core/geometry';
import { createPlane, type Plane } from '@lurn/core/picture';
import { warpPlane } from '@lurn/core/warp';
import {
  normal,
  randomNumbers,
  speckledSurface,
  type Surface,
} from '../packages/core/src/testing/footage.js';
import { masonrySurface, signedSurface } from '../packages/core/src/testing/surfaces.js';
import { encodeGrey } from './encode.js';

/** Made-up shots of a flat panel that leans and turns before a background, with exact truth. */

export const [WIDTH, HEIGHT] = [640, 360];
const FPS = 30;
/** The panel in its own coordinates. */
const [ACROSS, DOWN] = [220, 160];
const PANEL = rectangle(0, 0, ACROSS, DOWN);
/** Samples of its texture for each of those. */
const FINE = 1.5;

export interface PanelClip {
  readonly kind: string;
  readonly file: string;
  readonly frames: number;
  /** The panel's corners on every frame. */
  readonly corners: readonly Quad[];
  /** True on frames on which nothing of it can be seen. */
  readonly hidden: (frame: number) => boolean;
  /** What passes in front, as an ignore area's keys; empty where nothing is told. */
  readonly ignore: readonly { readonly frame: number; readonly shape: readonly [number, number][] }[];
}

interface Look {
  readonly frames: number;
  readonly noise: number;
  readonly crf: number;
  readonly flicker?: number;
  readonly blur?: boolean;
  readonly path?: 'out' | 'jolts' | 'zoom';
  /** What stands in front: its brightness at a place of a frame, or null beside it. */
  readonly front?: (x: number, y: number, t: number) => number | null;
  /** Light on the panel, in grey levels, at a place of it. */
  readonly light?: (u: number, v: number, t: number) => number;
  readonly hidden?: (t: number) => boolean;
  readonly ignored?: boolean;
}

const barAt = (t: number) => -80 + ((WIDTH + 160) * t) / 150;
const bar: Look['front'] = (x, _, t) => (Math.abs(x - barAt(t)) < 35 ? 30 : null);
const sleeve = speckledSurface(99);

const LOOKS: Record<string, Look> = {
  'bar across': { frames: 150, noise: 2, crf: 14, front: bar },
  'bar ignored': { frames: 150, noise: 2, crf: 14, front: bar, ignored: true },
  clean: { frames: 300, noise: 0, crf: 8 },
  heavy: { frames: 150, noise: 6, crf: 23, flicker: 0.18, blur: true },
  'half out': { frames: 140, noise: 2, crf: 14, path: 'out' },
  hidden: {
    ...{ frames: 100, noise: 2, crf: 14, hidden: (t) => t >= 40 && t < 55 },
    front: (x, y, t) => (t >= 40 && t < 55 ? sleeve(x + 5 * t, y) : null),
  },
  shiny: {
    ...{ frames: 120, noise: 2, crf: 14 },
    light: (u, v, t) => 110 * Math.exp(-(((u - (-40 + (300 * t) / 120) + 0.4 * v) / 24) ** 2)),
  },
  arm: {
    ...{ frames: 120, noise: 2, crf: 14 },
    front: (x, y, t) => (Math.abs(x - 180 - 3 * t + 0.6 * y) < 45 ? sleeve(x - 3 * t, y + 2 * t) : null),
  },
  jolts: { frames: 100, noise: 2, crf: 14, path: 'jolts' },
  zoom: { frames: 120, noise: 2, crf: 14, path: 'zoom' },
};

export const PANEL_KINDS = Object.keys(LOOKS);

const TEXTURES: readonly ((seed: number) => Surface)[] = [
  (s) => signedSurface(s),
  (s) => speckledSurface(s),
  (s) => masonrySurface(s),
];

/** Where the panel's corners are at any time, in frames. */
function cornersAt(t: number, seed: number, path: Look['path']): Quad {
  const p = seed * 1.7;
  let s = 1.3 + 0.25 * (0.5 - 0.5 * Math.cos((2 * Math.PI * t) / 150));
  const a = 0.22 * Math.sin(((2 * Math.PI * t) / 150) * 1.3 + p) - 0.22 * Math.sin(p);
  let cx = 320 + 30 * Math.sin(t / 17 + p) + 1.5 * Math.sin(t * 0.9 + p);
  let cy = 180 + 18 * Math.cos(t / 13 + p) + 1.2 * Math.sin(t * 1.3);
  if (path === 'out') cx = 320 + 320 * Math.min(1, Math.max(0, (t < 70 ? t - 20 : 120 - t) / 30));
  if (path === 'jolts') [cx, cy] = [cx + 40 * Math.sin(t * 0.8), cy + 25 * Math.sin(t * 1.1 + 1)];
  if (path === 'zoom') s = 1.3 * 2 ** (-1.2 * Math.sin((Math.PI * t) / 120));
  const [lean, tilt] = [0.0009 * Math.sin(t / 22 + p), 0.0007 * Math.cos(t / 19 + p)];
  return moveQuad(
    multiply(translation(cx, cy), [
      ...([s * Math.cos(a), -s * Math.sin(a), 0, s * Math.sin(a), s * Math.cos(a), 0] as const),
      ...([lean, tilt, 1] as const),
    ]),
    rectangle(-ACROSS / 2, -DOWN / 2, ACROSS / 2, DOWN / 2),
  );
}

export async function panelClip(kind: string, seed: number): Promise<PanelClip> {
  const look = LOOKS[kind];
  const folder = join(tmpdir(), 'lurn-panels');
  mkdirSync(folder, { recursive: true });
  const source = readFileSync(new URL(import.meta.url), 'utf8');
  // A bar that is ignored is the same bar.
  const drawn = kind === 'bar ignored' ? 'bar across' : kind;
  const key = createHash('sha1')
    .update(JSON.stringify([drawn, seed, source]))
    .digest('hex')
    .slice(0, 10);
  const file = join(folder, `${drawn.replace(' ', '-')}-${seed}-${key}.mp4`);
  const format = { width: WIDTH, height: HEIGHT, fps: FPS, crf: look.crf };
  if (!existsSync(file)) await encodeGrey(file, format, film(look, seed));
  const corners = Array.from({ length: look.frames }, (_, t) => cornersAt(t, seed, look.path));
  const ignore = look.ignored
    ? [0, look.frames - 1].map((frame) => {
        const [l, r] = [barAt(frame) - 37, barAt(frame) + 37];
        return {
          frame,
          shape: [
            [l, -2],
            [r, -2],
            [r, HEIGHT + 2],
            [l, HEIGHT + 2],
          ] as [number, number][],
        };
      })
    : [];
  return { kind, file, frames: look.frames, corners, hidden: look.hidden ?? (() => false), ignore };
}

/** A texture as samples, {@link FINE} of them a unit. */
function drawn(surface: Surface, width: number, height: number, scale: number): Plane {
  const plane = createPlane(Math.ceil(width * scale), Math.ceil(height * scale));
  for (let y = 0; y < plane.height; y++)
    for (let x = 0; x < plane.width; x++)
      plane.data[y * plane.stride + x] = Math.max(
        16,
        Math.min(235, surface((x + 0.5) / scale, (y + 0.5) / scale)),
      );
  return plane;
}

function* film(look: Look, seed: number): Generator<Uint8Array> {
  const random = randomNumbers(seed + 40);
  const texture = drawn(TEXTURES[seed % TEXTURES.length](seed), ACROSS, DOWN, FINE);
  const behind = drawn(speckledSurface(seed + 7), 900, 600, 1);
  const solid = createPlane(texture.width, texture.height);
  solid.data.fill(255);
  const plane = createPlane(WIDTH, HEIGHT);
  const lit = createPlane(texture.width, texture.height);
  const exposures = look.blur ? 5 : 1;
  for (let t = 0; t < look.frames; t++) {
    const sum = new Float32Array(WIDTH * HEIGHT);
    lit.data.set(texture.data);
    const { light } = look;
    if (light)
      for (let i = 0; i < lit.data.length; i++) {
        const [u, v] = [(i % lit.width) / FINE, Math.floor(i / lit.width) / FINE];
        lit.data[i] = Math.min(255, lit.data[i] + light(u, v, t));
      }
    for (let e = 0; e < exposures; e++) {
      // The exposure is half a frame long, its middle where the truth is.
      const at = t + (e - (exposures - 1) / 2) / exposures / 2;
      const back = translation(-100 + 20 * Math.sin(at / 15), -80 + 12 * Math.cos(at / 11));
      warpPlane(behind, plane, matrixWarp(invert(back)), 'mirrored');
      const corners = cornersAt(at, seed, look.path);
      const m = multiply(quadToQuad(PANEL, corners)!, scaling(1 / FINE));
      const [xs, ys] = [corners.map((p) => p.x), corners.map((p) => p.y)];
      const [x0, y0] = [
        Math.max(0, Math.floor(Math.min(...xs)) - 3),
        Math.max(0, Math.floor(Math.min(...ys)) - 3),
      ];
      const [w, h] = [
        Math.min(WIDTH, Math.ceil(Math.max(...xs)) + 3) - x0,
        Math.min(HEIGHT, Math.ceil(Math.max(...ys)) + 3) - y0,
      ];
      if (w > 0 && h > 0) {
        const [over, mask] = [createPlane(w, h), createPlane(w, h)];
        const warp = matrixWarp(multiply(invert(m), translation(x0, y0)));
        warpPlane(lit, over, warp, 'stretched');
        warpPlane(solid, mask, warp, 0);
        for (let y = 0, k = 0; y < h; y++)
          for (let x = 0, i = (y0 + y) * WIDTH + x0; x < w; x++, k++, i++)
            plane.data[i] += ((over.data[k] - plane.data[i]) * mask.data[k]) / 255;
      }
      for (let i = 0; i < sum.length; i++) sum[i] += plane.data[i] / exposures;
    }
    const gain = 1 + (look.flicker ?? 0) * (2 * random() - 1);
    const out = Buffer.alloc(sum.length);
    for (let i = 0; i < sum.length; i++) {
      const front = look.front?.((i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5, t) ?? null;
      out[i] = Math.max(0, Math.min(255, Math.round(gain * (front ?? sum[i]) + look.noise * normal(random))));
    }
    yield out;
  }
}
