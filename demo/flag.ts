import { wander, type Scene, type Sheet } from './film.js';
import { Layer, lit, type Colour } from './layer.js';
import { fractalNoise, randomNumbers, smoothstep, valueNoise } from './noise.js';
import { letter } from './scenery.js';
import { valleyStation } from './station.js';

const [WIDTH, HEIGHT] = [960, 540];
/** The flag in its own coordinates, its mast at the left. */
const [LEFT, TOP, ACROSS, DOWN] = [330, 96, 400, 272];
/** Where a fold comes and goes, from the mast, and the most that it hides. */
const [FOLD, HIDDEN] = [268, 26];

/** The railway's flag on the valley station's mast, filmed by hand: it waves, folds once, and a rope crosses it. */
export function flagScene(sound: string): Scene {
  const across = wander(101, 0.4, 5);
  const upDown = wander(102, 0.4, 6);
  const roll = wander(103, 0.3, 4);
  const pose = (nearness: number) => (t: number) => ({
    x: 6 * nearness * across(t),
    y: 5 * nearness * upDown(t),
    rotation: 0.005 * roll(t),
    logScale: 0.02 * Math.sin(t / 1.7),
  });
  return {
    name: 'flag',
    width: WIDTH,
    height: HEIGHT,
    fps: 30,
    frames: 180,
    seed: 7,
    shutter: 0.25,
    grain: 2.2,
    flicker: 0.006,
    crf: 21,
    sound,
    sheets: [
      { name: 'station', layer: ground(), pose: pose(0.6) },
      { name: 'mast', layer: mast(), pose: pose(1) },
      { name: 'flag', layer: flag(), pose: pose(1), bent: WAVES },
      {
        name: 'rope',
        layer: rope(),
        pose: (t) => {
          const { x, y, rotation, logScale } = pose(1)(t);
          return {
            x: x - 150 + 88 * t + 18 * Math.sin(t * 2.2),
            y,
            rotation: rotation - 0.06 * Math.sin(t * 1.6),
            logScale,
          };
        },
      },
    ],
    features: [
      { name: 'crest', sheet: 'flag', x: LEFT + 96, y: TOP + 120 },
      { name: 'star', sheet: 'flag', x: LEFT + 210, y: TOP + 66 },
      { name: 'wheel', sheet: 'flag', x: LEFT + 316, y: TOP + 196 },
      { name: 'seam', sheet: 'flag', x: LEFT + 40, y: TOP + 236 },
    ],
  };
}

/** How much of the strip beyond the fold is hidden at a time. */
const hiddenAt = (t: number) => HIDDEN * (smoothstep(2.4, 3.1, t) - smoothstep(3.9, 4.5, t));

/** Where the wind takes a place of the flag: nothing at the mast, more and more towards its free end. */
function waved(x: number, y: number, t: number): [number, number] {
  const [u, v] = [x - LEFT, y - TOP];
  const free = smoothstep(-30, ACROSS, u);
  const phase = u / 46 + v / 210 - 3.3 * t;
  const slow = u / 120 - v / 160 - 1.5 * t;
  return [
    x + free * (5 * Math.cos(phase + 0.7) + 4 * Math.cos(slow) - 7),
    y + free * (11 * Math.sin(phase) + 7 * Math.sin(slow) + 9 * free),
  ];
}

const WAVES: NonNullable<Sheet['bent']> = {
  forth: (x, y, t) => waved(x - LEFT > FOLD ? Math.max(LEFT + FOLD, x - hiddenAt(t)) : x, y, t),
  back(x, y, t) {
    let [u, v] = [x, y];
    for (let k = 0; k < 24; k++) {
      const [p, q] = waved(u, v, t);
      const [dx, dy] = [x - p, y - q];
      u += dx;
      v += dy;
      if (dx * dx + dy * dy < 1e-6) break;
    }
    return [u - LEFT > FOLD ? u + hiddenAt(t) : u, v];
  },
  light(x, y, t) {
    const [u, v] = [x - LEFT, y - TOP];
    const free = smoothstep(-30, ACROSS, u);
    const slope = Math.cos(u / 46 + v / 210 - 3.3 * t);
    const folded = hiddenAt(t) / HIDDEN;
    const crease = folded * Math.exp(-(((u - FOLD - HIDDEN * folded) / 16) ** 2));
    return 1 + 0.16 * free * slope - 0.35 * crease;
  },
};

/** The valley station, far behind. */
function ground(): Layer {
  return valleyStation();
}

function mast(): Layer {
  const l = new Layer(LEFT - 40, -60, 60, 700);
  l.rectangle(LEFT - 15, -40, 11, 660, (x, y) =>
    lit(
      [196, 192, 180],
      0.62 + 0.5 * smoothstep(LEFT - 4, LEFT - 14, x) + 0.12 * valueNoise(x / 2, y / 30, 121),
    ),
  );
  for (const y of [TOP + 6, TOP + DOWN - 8]) l.ellipse(LEFT - 9, y, 7, 7, [92, 94, 92]);
  return l;
}

/** Two fields with a border, a wheel with its cable, a crest, a year, and the weave of the cloth. */
function flag(): Layer {
  const l = new Layer(LEFT - 8, TOP - 8, ACROSS + 16, DOWN + 16);
  const random = randomNumbers(131);
  const green: Colour = [46, 92, 74];
  const bone: Colour = [224, 216, 196];
  const weave = (x: number, y: number) =>
    0.86 + 0.16 * fractalNoise(x / 26, y / 26, 132, 4) + 0.09 * valueNoise(x / 2.1, y / 2.4, 133);
  l.rectangle(LEFT, TOP, ACROSS, DOWN, (x, y) =>
    lit(y - TOP < DOWN / 2 + 18 * Math.sin((x - LEFT) / 64) ? green : bone, weave(x, y)),
  );
  for (const [x, y, w, h] of [
    [0, 0, ACROSS, 9],
    [0, DOWN - 9, ACROSS, 9],
    [0, 0, 12, DOWN],
    [ACROSS - 9, 0, 9, DOWN],
  ])
    l.rectangle(LEFT + x, TOP + y, w, h, (px, py) => lit([178, 62, 46], weave(px, py)));
  const wheel = (cx: number, cy: number, r: number, rim: Colour, within: Colour) => {
    l.ellipse(LEFT + cx, TOP + cy, r, r, (x, y) => lit(rim, weave(x, y)));
    l.ellipse(LEFT + cx, TOP + cy, r * 0.76, r * 0.76, (x, y) => lit(within, weave(x, y)));
    for (let k = 0; k < 5; k++) {
      const a = (k / 5) * 2 * Math.PI + 0.3;
      l.line(
        [LEFT + cx, TOP + cy],
        [LEFT + cx + r * 0.8 * Math.cos(a), TOP + cy + r * 0.8 * Math.sin(a)],
        4,
        rim,
      );
    }
    l.ellipse(LEFT + cx, TOP + cy, r * 0.2, r * 0.2, rim);
  };
  wheel(96, 120, 62, [214, 186, 92], [38, 66, 58]);
  wheel(316, 196, 38, [92, 74, 58], [214, 204, 180]);
  letter(l, '1847', LEFT + 184, TOP + 30, 7.2, bone);
  letter(l, '1200', LEFT + 196, TOP + 178, 4.6, [62, 76, 70]);
  for (let k = 0; k < 7; k++) {
    const x = LEFT + 176 + 30 * k;
    l.line([x, TOP + 118 - 4 * k], [x + 30, TOP + 114 - 4 * k], 3, [92, 74, 58]);
    l.ellipse(x, TOP + 118 - 4 * k, 5, 5, [178, 62, 46]);
  }
  for (let k = 0; k < 46; k++) {
    const [x, y] = [LEFT + 18 + (ACROSS - 36) * random(), TOP + 16 + (DOWN - 32) * random()];
    const tone = 0.72 + 0.5 * random();
    l.ellipse(x, y, 1.6 + 2.6 * random(), 1.4 + 2 * random(), lit([150, 140, 118], tone));
  }
  return l;
}

/** A hoisting rope, nearer to the camera. */
function rope(): Layer {
  const l = new Layer(360, -120, 60, 800);
  l.line([392, -110], [384, 660], 7, (x, y) =>
    lit([148, 124, 88], 0.6 + 0.6 * valueNoise(x / 2, (y + x) / 5, 141)),
  );
  return l;
}
