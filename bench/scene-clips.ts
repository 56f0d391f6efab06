import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, renameSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  apply,
  composeSimilarity,
  invert,
  matrixWarp,
  meshOver,
  multiply,
  translation,
  type Matrix3,
  type Warp,
} from '@lurn/core/geometry';
import { createPlane, type Plane } from '@lurn/core/picture';
import { warpPlane } from '@lurn/core/warp';
import { encodeGrey } from './encode.js';
import {
  normal,
  randomNumbers,
  speckledSurface,
  type Surface,
} from '../packages/core/src/testing/footage.js';
import { masonrySurface, signedSurface } from '../packages/core/src/testing/surfaces.js';

/** Made-up shots of whole scenes with exact truth: surroundings, and what moves before them. */

export const [WIDTH, HEIGHT, FRAMES] = [960, 540, 150];
const FPS = 30;
/** 25 ms, as a share of the time from frame to frame. */
export const READOUT = 0.025 * FPS;

export interface SceneClip {
  readonly kind: string;
  readonly file: string;
  readonly frames: number;
  /** First frames of the parts after the first. */
  readonly cuts: readonly number[];
  /** What is in the picture, the surroundings first: from its place on the part's first frame to each frame. */
  readonly layers: readonly Layer[];
  /** Where a place of frame 0, had it been taken at once, is seen on a frame. */
  readonly seen?: (x: number, y: number, frame: number) => { x: number; y: number };
}

export interface Layer {
  readonly name: string;
  readonly motion: readonly Matrix3[];
  /** True where it is in front of the surroundings: a place of the frame. */
  readonly covers: ((x: number, y: number, frame: number) => boolean) | null;
}

interface Thing {
  readonly name: string;
  readonly surface: Surface;
  /** From its own coordinates to the picture. */
  readonly motion: readonly Matrix3[];
  /** Its motion at any time, in frames, where rows are taken one after the other. */
  readonly at?: (t: number) => Matrix3;
  /** In its own coordinates: distance inside its rim in pixels, negative outside; null for all of the plane. */
  readonly inside: ((x: number, y: number) => number) | null;
  /** Its extent in its own coordinates, where it has a rim. */
  readonly box: readonly [number, number, number, number] | null;
}

interface Look {
  readonly noise: number;
  readonly flicker?: number;
  readonly blur?: boolean;
  readonly crf: number;
  /** Rows are taken one after the other, within this share of the time from frame to frame. */
  readonly readout?: number;
}

const MIDDLE = { x: WIDTH / 2, y: HEIGHT / 2 };
const still = Array.from({ length: FRAMES }, () => translation(0, 0));

interface Moves {
  readonly size?: number;
  readonly panX?: number;
  readonly turn?: number;
  readonly grow?: number;
}

/** A hand that holds a camera: slow drifts and quick tremor, and a move that is meant. */
function handheld(seed: number, { size = 1, panX = 0, turn = 0, grow = 1 }: Moves = {}): Matrix3[] {
  const random = randomNumbers(seed);
  const waves = Array.from({ length: 7 }, () => ({
    f: 0.01 + 0.13 * random(),
    p: 6.28 * random(),
    b: 6.28 * random(),
    a: 0.8 + 2.2 * random(),
  }));
  const sum = (t: number, key: 'p' | 'b') =>
    size * waves.reduce((s, w) => s + w.a * (Math.sin(6.28 * w.f * t + w[key]) - Math.sin(w[key])), 0);
  return Array.from({ length: FRAMES }, (_, t) => {
    const share = t / (FRAMES - 1);
    const tremor = t === 0 ? 0 : 0.6 * size;
    return composeSimilarity(
      {
        x: sum(t, 'p') - panX * share + tremor * normal(random),
        y: 0.8 * sum(t, 'b') + tremor * normal(random),
        rotation: 0.006 * size * Math.sin(t / 5) + turn * share,
        logScale: 0.004 * size * Math.sin(t / 7) + Math.log(grow) * share,
      },
      MIDDLE,
    );
  });
}

/** A hand that also turns the camera, by up to so many degrees: its focal length is the picture's width. */
function turning(seed: number, degrees: number): Matrix3[] {
  const [cx, cy] = [WIDTH / 2, HEIGHT / 2];
  const camera: Matrix3 = [WIDTH, 0, cx, 0, WIDTH, cy, 0, 0, 1];
  const most = (degrees * Math.PI) / 180;
  const hand = handheld(seed, { size: 0.3 });
  const about = (t: number, pace: number) => most * (Math.sin(t / pace + seed) - Math.sin(seed));
  return hand.map((m, t) => {
    const [p, q] = [about(t, 9), about(t, 13)];
    const [cp, sp, cq, sq] = [Math.cos(p), Math.sin(p), Math.cos(q), Math.sin(q)];
    const turned = multiply([1, 0, 0, 0, cp, -sp, 0, sp, cp], [cq, 0, sq, 0, 1, 0, -sq, 0, cq]);
    return multiply(m, multiply(camera, multiply(turned, invert(camera))));
  });
}

const SURFACES: readonly ((seed: number) => Surface)[] = [
  (s) => speckledSurface(s),
  (s) => signedSurface(s),
  (s) => masonrySurface(s),
  (s) => {
    const [a, b] = [speckledSurface(s), signedSurface(s + 1)];
    return (x, y) => 0.5 * (a(x, y) + b(0.7 * x, 0.7 * y));
  },
];
const surfaceOf = (seed: number) => SURFACES[seed % SURFACES.length](seed);

const rim = (w: number, h: number) => (x: number, y: number) =>
  Math.min(w / 2 - Math.abs(x), h / 2 - Math.abs(y));
const oval = (w: number, h: number) => (x: number, y: number) =>
  (1 - Math.hypot((2 * x) / w, (2 * y) / h)) * Math.min(w, h) * 0.5;

/** The kinds of shots, each by a seed that gives it its textures and its shake. */
const KINDS: Record<string, (seed: number) => { parts: Thing[][]; look: Look }> = {
  handheld: (seed) => ({ parts: [[ground(seed, handheld(seed))]], look: { noise: 2, crf: 12 } }),
  heavy: (seed) => ({
    parts: [[ground(seed, handheld(seed))]],
    look: { noise: 6, flicker: 0.18, blur: true, crf: 23 },
  }),
  turning: (seed) => ({ parts: [[ground(seed, turning(seed, 1.5))]], look: { noise: 2, crf: 12 } }),
  pan: (seed) => ({ parts: [[ground(seed, handheld(seed, { panX: 900 }))]], look: { noise: 2, crf: 14 } }),
  'two depths': (seed) => {
    const far = handheld(seed);
    // The camera walks a little besides it shakes: what is near goes by faster.
    const near = far.map((m, t) => multiply(translation(0.5 * m[2] + 90 * (t / FRAMES), 0.3 * m[5]), m));
    const railing = {
      ...{ name: 'railing', surface: surfaceOf(seed + 1), motion: near },
      ...{ inside: (_: number, y: number) => y - HEIGHT * 0.63, box: null },
    };
    return { parts: [[ground(seed, far), railing]], look: { noise: 2, crf: 14 } };
  },
  zoom: (seed) => ({
    parts: [[ground(seed, handheld(seed, { turn: (25 * Math.PI) / 180, grow: 1.6 }))]],
    look: { noise: 2, crf: 14 },
  }),
  crossing: (seed) => {
    const hand = handheld(seed);
    const motion = hand.map((m, t) =>
      multiply(m, translation(-120 + (t * (WIDTH + 240)) / FRAMES, 330 + 6 * Math.sin(t / 9))),
    );
    const gondola = { name: 'gondola', surface: surfaceOf(seed + 2), motion, ...boxed(170, 130, rim) };
    return { parts: [[ground(seed, hand), gondola]], look: { noise: 2, crf: 14 } };
  },
  swaying: (seed) => {
    const hand = handheld(seed);
    const motion = hand.map((m, t) =>
      multiply(
        m,
        composeSimilarity(
          {
            x: 470 + 28 * Math.sin(t / 11),
            y: 300 + 7 * Math.sin(t / 6 + 1),
            rotation: 0.05 * Math.sin(t / 11),
            logScale: 0,
          },
          { x: 0, y: 0 },
        ),
      ),
    );
    const guard = { name: 'guard', surface: surfaceOf(seed + 2), motion, ...boxed(560, 480, oval) };
    return { parts: [[ground(seed, hand), guard]], look: { noise: 2, crf: 14 } };
  },
  // A dozen people, each with a way of its own, before most of the picture's lower half.
  crowd: (seed) => {
    const random = randomNumbers(seed + 70);
    const hand = handheld(seed, { size: 0.6 });
    const people = Array.from({ length: 12 }, (_, k): Thing => {
      const [x, y, pace, way] = [
        WIDTH * random(),
        HEIGHT * (0.55 + 0.35 * random()),
        9 + 9 * random(),
        60 * (random() - 0.5),
      ];
      const motion = hand.map((m, t) =>
        multiply(
          m,
          translation(x + (way * t) / 30 + 9 * Math.sin(t / pace + k), y + 4 * Math.sin(t / 4 + k)),
        ),
      );
      return {
        name: `person ${k}`,
        surface: surfaceOf(seed + k),
        motion,
        ...boxed(2 * Math.round(65 + 30 * random()), 230, oval),
      };
    });
    return { parts: [[ground(seed, hand), ...people]], look: { noise: 2, crf: 16 } };
  },
  // Somebody goes along and the camera goes with her: the wall behind goes by.
  following: (seed) => {
    const random = randomNumbers(seed + 20);
    const hand = handheld(seed, { size: 0.6, panX: 500 + 400 * random() });
    const shake = handheld(seed, { size: 0.6 });
    const motion = shake.map((m, t) =>
      multiply(m, translation(430 + 40 * Math.sin(t / 31 + seed), 330 + 7 * Math.sin(t / 5))),
    );
    const walker = { name: 'walker', surface: surfaceOf(seed + 2), motion, ...boxed(300, 460, oval) };
    return { parts: [[ground(seed, hand), walker]], look: { noise: 2, crf: 14 } };
  },
  // A mark that never moves, over a shot that does.
  mark: (seed) => {
    const motion = still.map(() => translation(WIDTH - 120, 70));
    const mark = { name: 'mark', surface: surfaceOf(seed + 2), motion, ...boxed(150, 70, rim) };
    return { parts: [[ground(seed, handheld(seed)), mark]], look: { noise: 2, crf: 14 } };
  },
  // A walk along a fence that covers half of the picture and goes by.
  fence: (seed) => {
    const far = handheld(seed, { size: 0.7 });
    const near = far.map((m, t) => multiply(translation(0.9 * m[2] + 420 * (t / FRAMES), 0.6 * m[5]), m));
    const rails = {
      ...{ name: 'fence', surface: surfaceOf(seed + 1), motion: near, box: null },
      inside: (x: number, y: number) => y - HEIGHT * (0.44 + 0.03 * Math.sin(x / 41)),
    };
    return { parts: [[ground(seed, far), rails]], look: { noise: 2, crf: 14 } };
  },
  // Somebody passes behind a post that belongs to what stands.
  post: (seed) => {
    const hand = handheld(seed, { size: 0.6 });
    const at = (t: number) => 150 + (660 * t) / FRAMES;
    const motion = hand.map((m, t) => multiply(m, translation(at(t), 340 + 5 * Math.sin(t / 7))));
    const walker = { name: 'walker', surface: surfaceOf(seed + 2), motion, ...boxed(150, 260, oval) };
    const pole = { name: 'post', surface: surfaceOf(seed + 1), motion: hand };
    const before: Thing = {
      ...pole,
      ...{ inside: (x) => 95 - Math.abs(x - 480), box: [370, -60, 590, HEIGHT + 60] },
    };
    return { parts: [[ground(seed, hand), walker, before]], look: { noise: 2, crf: 14 } };
  },
  presenter: (seed) => {
    const random = randomNumbers(seed + 40);
    const hand = handheld(seed, { size: 0.45 });
    // A few things hang on a plain wall: a switch, the corner of a poster, a hook.
    const marks = Array.from({ length: 16 }, () => ({
      x: -20 + (WIDTH + 40) * random(),
      y: -20 + HEIGHT * 0.75 * random(),
      w: 6 + 26 * random(),
      h: 6 + 22 * random(),
      v: 60 + 60 * random(),
    }));
    const wall = {
      ...ground(seed, hand),
      surface: (x: number, y: number) =>
        marks.reduce(
          (v, m) => (Math.abs(x - m.x) < m.w && Math.abs(y - m.y) < m.h ? m.v : v),
          168 + 10 * Math.sin(x / 310 + seed) + 0.02 * y,
        ),
    };
    const pace = 14 + 8 * random();
    const motion = hand.map((m, t) =>
      multiply(
        m,
        composeSimilarity(
          {
            x: WIDTH / 2 + 34 * Math.sin(t / pace + seed) + 9 * Math.sin(t / 5.3),
            y: HEIGHT * 0.62 + 9 * Math.sin((2 * t) / pace),
            rotation: 0.05 * Math.sin(t / pace + seed + 0.4),
            logScale: 0.02 * Math.sin(t / 23),
          },
          { x: 0, y: 0 },
        ),
      ),
    );
    const person = { name: 'person', surface: surfaceOf(seed + 2), motion, ...boxed(740, 640, oval) };
    return { parts: [[wall, person]], look: { noise: 2, crf: 16 } };
  },
  rolling: (seed) => {
    const at = handAt(seed);
    const motion = still.map((_, t) => at(t));
    return { parts: [[{ ...ground(seed, motion), at }]], look: { noise: 2, crf: 14, readout: READOUT } };
  },
  travelling,
  cut: (seed) => ({
    parts: [[ground(seed, handheld(seed))], [ground(seed + 5, handheld(seed + 5))]],
    look: { noise: 2, crf: 14 },
  }),
};

const OF_THEIR_OWN = ['rolling', 'travelling', 'presenter', 'crowd', 'mark', 'fence', 'post', 'following'];
export const KIND_NAMES = Object.keys(KINDS).filter((kind) => !OF_THEIR_OWN.includes(kind));

/** Kinds of clips with the layers, by their place, that a person would hold; all others are of no use for it. */
export const HELD_BY_PEOPLE: Readonly<Record<string, readonly number[]>> = {
  handheld: [0],
  heavy: [0],
  'two depths': [0],
  crossing: [0],
  swaying: [0],
  presenter: [0],
  travelling: [2],
  crowd: [0],
  mark: [0],
  fence: [0],
  post: [0, 2],
  following: [0],
  pan: [0],
};

/** Of a clip of a camera that travels: the layer that it is aimed at, and places on it on frame 0. */
export const AIMED_AT = {
  layer: 2,
  places: [-30, 0, 30].flatMap((x) => [-170, -100, -30].map((y) => [x, y])),
};

/**
 * A bank filmed from a boat: near water in bands, a tower in the middle that the camera is aimed at, a far shore and the
 * sky, all planes that stand still across the camera's way.
 */
function travelling(seed: number): { parts: Thing[][]; look: Look } {
  const random = randomNumbers(seed + 100);
  const focal = WIDTH * (0.85 + 0.3 * random());
  const aim = 30 + 20 * random();
  const hand = handheld(seed, { size: 0.25 });
  const plane = (depth: number): Matrix3[] =>
    hand.map((shake, t) => {
      // Turned back towards the tower by so little that it is a shift.
      const along = (4.5 * focal * t) / FRAMES;
      return multiply(shake, translation(MIDDLE.x + along * (1 / aim - 1 / depth), MIDDLE.y));
    });
  const band = (depth: number, top: number, k: number): Thing => ({
    ...{ name: `water ${depth}`, surface: surfaceOf(seed + k), motion: plane(depth), box: null },
    inside: (x, y) => y - top - 3 * Math.sin(x / 17) - 2 * Math.sin(x / 7 + k),
  });
  const shore: Thing = {
    ...{ name: 'shore', surface: surfaceOf(seed + 1), motion: plane(2 * aim), box: null },
    inside: (x, y) => y + 90 - 24 * Math.sin(x / 61) - 9 * Math.sin(x / 23),
  };
  const half = Math.round(36 + 10 * random());
  const tower: Thing = {
    ...{ name: 'tower', surface: surfaceOf(seed + 2), motion: plane(aim) },
    ...{
      inside: (x, y) => Math.min(half - Math.abs(x), y + 210, 60 - y),
      box: [-half - 4, -214, half + 4, 64],
    },
  };
  const sky: Thing = {
    ...{ name: 'sky', motion: plane(400), inside: null, box: null },
    surface: (x, y) => 190 + 8 * Math.sin(x / 140 + y / 90) + 6 * Math.sin(x / 53 - y / 71),
  };
  const water = [20, 12, 8, 6].map((depth, k) => band(depth, 36 + 52 * k, 3 + k));
  return { parts: [[sky, shore, tower, ...water]], look: { noise: 2, crf: 15 } };
}

/** A hand at any time, with tremor of up to 5 Hz that frames can follow. */
function handAt(seed: number): (t: number) => Matrix3 {
  const random = randomNumbers(seed);
  const waves = Array.from({ length: 9 }, () => ({
    f: 0.01 + 0.16 * random(),
    p: 6.28 * random(),
    b: 6.28 * random(),
    a: 0.8 + 2.2 * random(),
  }));
  const sum = (t: number, key: 'p' | 'b') =>
    waves.reduce((s, w) => s + w.a * (Math.sin(6.28 * w.f * t + w[key]) - Math.sin(w[key])), 0);
  return (t) =>
    composeSimilarity(
      {
        x: sum(t, 'p'),
        y: 0.8 * sum(t, 'b'),
        rotation: 0.006 * Math.sin(t / 5),
        logScale: 0.004 * Math.sin(t / 7),
      },
      MIDDLE,
    );
}

/** From a picture that is read row by row to a thing's texture; null where pictures are taken at once. */
function rolling({ at }: Thing, { origin }: Drawn, { readout }: Look, t: number): Warp | null {
  if (!at || !readout) return null;
  return meshOver(WIDTH, HEIGHT, 2, HEIGHT / 4, (x, y) =>
    apply(invert(multiply(at(t + readout * (y / HEIGHT - 0.5)), origin)), x, y),
  );
}

function ground(seed: number, motion: readonly Matrix3[]): Thing {
  return { name: 'ground', surface: surfaceOf(seed), motion, inside: null, box: null };
}

function boxed(w: number, h: number, of: typeof rim) {
  return { inside: of(w, h), box: [-w / 2 - 4, -h / 2 - 4, w / 2 + 4, h / 2 + 4] as const };
}

export async function sceneClip(kind: string, seed: number): Promise<SceneClip> {
  const { parts, look } = KINDS[kind](seed);
  const lengths = parts.map((_, i) =>
    i === parts.length - 1
      ? FRAMES - i * Math.floor(FRAMES / parts.length)
      : Math.floor(FRAMES / parts.length),
  );
  const starts = lengths.map((_, i) => lengths.slice(0, i).reduce((a, b) => a + b, 0));
  const folder = join(tmpdir(), 'lurn-scenes');
  mkdirSync(folder, { recursive: true });
  const source = readFileSync(new URL(import.meta.url), 'utf8');
  const key = createHash('sha1')
    .update(JSON.stringify([kind, seed, source]))
    .digest('hex')
    .slice(0, 10);
  const file = join(folder, `${kind.replace(' ', '-')}-${seed}-${key}.mp4`);
  const format = { width: WIDTH, height: HEIGHT, fps: FPS, crf: look.crf };
  if (!existsSync(file)) {
    // A run that is ended meanwhile leaves no half of it.
    const coming = file.replace('.mp4', `.${process.pid}.mp4`);
    await encodeGrey(coming, format, film(parts, lengths, look));
    renameSync(coming, file);
  }
  const partOf = (f: number) => starts.filter((s) => s <= f).length - 1;
  const names = parts[0].map((t) => t.name);
  const layers = names.map((name, k): Layer => {
    const at = (f: number) => {
      const p = partOf(f);
      return { thing: parts[p][k], t: f - starts[p] };
    };
    const motion = still.map((_, f) => {
      const { thing, t } = at(f);
      return multiply(thing.motion[t], invert(thing.motion[0]));
    });
    const { inside } = parts[0][k];
    const covers = inside
      ? (x: number, y: number, f: number) => {
          const { thing, t } = at(f);
          const p = apply(invert(thing.motion[t]), x, y);
          return thing.inside!(p.x, p.y) > 0;
        }
      : null;
    return { name, motion, covers };
  });
  const { at } = parts[0][0];
  const seen = (x: number, y: number, f: number) => {
    const home = apply(invert(at!(0)), x, y);
    let p = apply(at!(f), home.x, home.y);
    for (let k = 0; k < 12; k++) p = apply(at!(f + READOUT * (p.y / HEIGHT - 0.5)), home.x, home.y);
    return p;
  };
  return { kind, file, frames: FRAMES, cuts: starts.slice(1), layers, ...(at && { seen }) };
}

interface Drawn {
  readonly texture: Plane;
  readonly mask: Plane | null;
  /** From the texture's samples to the thing's own coordinates. */
  readonly origin: Matrix3;
}

function draw({ surface, motion, inside, box }: Thing): Drawn {
  let [x0, y0, x1, y1] = box ?? [Infinity, Infinity, -Infinity, -Infinity];
  if (!box) {
    for (const m of motion) {
      const back = invert(m);
      for (const [u, v] of [
        [0, 0],
        [WIDTH, 0],
        [0, HEIGHT],
        [WIDTH, HEIGHT],
      ]) {
        const p = apply(back, u, v);
        [x0, y0] = [Math.min(x0, p.x), Math.min(y0, p.y)];
        [x1, y1] = [Math.max(x1, p.x), Math.max(y1, p.y)];
      }
    }
    [x0, y0, x1, y1] = [Math.floor(x0) - 4, Math.floor(y0) - 4, Math.ceil(x1) + 4, Math.ceil(y1) + 4];
  }
  const texture = createPlane(x1 - x0, y1 - y0);
  const mask = inside ? createPlane(x1 - x0, y1 - y0) : null;
  for (let y = 0; y < texture.height; y++) {
    for (let x = 0; x < texture.width; x++) {
      const [u, v] = [x + x0 + 0.5, y + y0 + 0.5];
      const k = y * texture.stride + x;
      texture.data[k] = Math.max(16, Math.min(235, surface(u, v)));
      if (mask) mask.data[k] = 255 * Math.max(0, Math.min(1, inside!(u, v) + 0.5));
    }
  }
  return { texture, mask, origin: translation(x0, y0) };
}

/** Lays a thing over a picture where its box is. @param m  from its own coordinates, `whole` from its texture's samples */
function lay(
  plane: Plane,
  { texture, mask }: Drawn,
  whole: Matrix3,
  [x0, y0, x1, y1]: readonly [number, number, number, number],
  m: Matrix3,
): void {
  const corners = [x0, x1].flatMap((x) => [y0, y1].map((y) => apply(m, x, y)));
  const [xs, ys] = [corners.map((p) => p.x), corners.map((p) => p.y)];
  const within = (v: number, most: number) => Math.min(most, Math.max(0, v));
  const [left, right] = [
    within(Math.floor(Math.min(...xs)), WIDTH),
    within(Math.ceil(Math.max(...xs)), WIDTH),
  ];
  const [top, bottom] = [
    within(Math.floor(Math.min(...ys)), HEIGHT),
    within(Math.ceil(Math.max(...ys)), HEIGHT),
  ];
  if (right <= left || bottom <= top) return;
  const [part, cover] = [createPlane(right - left, bottom - top), createPlane(right - left, bottom - top)];
  const warp = matrixWarp(multiply(invert(whole), translation(left, top)));
  warpPlane(texture, part, warp, 'mirrored');
  warpPlane(mask!, cover, warp, 0);
  for (let y = top; y < bottom; y++)
    for (let x = left, k = (y - top) * part.stride; x < right; x++, k++) {
      const i = y * plane.stride + x;
      plane.data[i] += ((part.data[k] - plane.data[i]) * cover.data[k]) / 255;
    }
}

function* film(parts: Thing[][], lengths: readonly number[], look: Look): Generator<Uint8Array> {
  const random = randomNumbers(9);
  const [over, mask] = [createPlane(WIDTH, HEIGHT), createPlane(WIDTH, HEIGHT)];
  const exposures = look.blur ? 4 : 1;
  for (const [p, things] of parts.entries()) {
    const drawn = things.map(draw);
    for (let t = 0; t < lengths[p]; t++) {
      const sum = new Float32Array(WIDTH * HEIGHT);
      for (let e = 0; e < exposures; e++) {
        const plane = createPlane(WIDTH, HEIGHT);
        things.forEach(({ motion }, k) => {
          // The exposure is half a frame long, its middle where the truth is.
          const [before, after] = [motion[Math.max(0, t - 1)], motion[Math.min(motion.length - 1, t + 1)]];
          const late = (e - (exposures - 1) / 2) / exposures / 2;
          const m = motion[t].map((v, i) => v + (late * (after[i] - before[i])) / 2) as unknown as Matrix3;
          const warp =
            rolling(things[k], drawn[k], look, t) ?? matrixWarp(invert(multiply(m, drawn[k].origin)));
          const { box } = things[k];
          if (box && !look.readout) return void lay(plane, drawn[k], multiply(m, drawn[k].origin), box, m);
          warpPlane(drawn[k].texture, k === 0 ? plane : over, warp, 'mirrored');
          if (k === 0) return;
          warpPlane(drawn[k].mask!, mask, warp, 0);
          for (let i = 0; i < plane.data.length; i++)
            plane.data[i] += ((over.data[i] - plane.data[i]) * mask.data[i]) / 255;
        });
        for (let i = 0; i < sum.length; i++) sum[i] += plane.data[i] / exposures;
      }
      const gain = 1 + (look.flicker ?? 0) * (2 * random() - 1);
      const out = Buffer.alloc(sum.length);
      // The coder takes it for the narrow range already.
      for (let i = 0; i < sum.length; i++)
        out[i] = Math.max(0, Math.min(255, Math.round(gain * sum[i] + look.noise * normal(random))));
      yield out;
    }
  }
}
