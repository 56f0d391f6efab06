import { chain, composeSimilarity, translation, type Matrix3 } from '@lurn/core/geometry';
import { wander, type Scene } from './film.js';
import { Layer, lit, type Colour } from './layer.js';
import { fractalNoise, mix, randomNumbers, smoothstep, valueNoise } from './noise.js';
import { boards, letter, wholeOf } from './scenery.js';

const [WIDTH, HEIGHT] = [960, 540];
/** The board in its own coordinates. */
const [ACROSS, DOWN] = [400, 280];

/**
 * The station's timetable board, leaning in perspective and filmed by hand: a passer-by's arm with a ski crosses it, and
 * a lamp's reflection slides over it.
 */
export function signScene(sound: string): Scene {
  const across = wander(81, 0.4, 5);
  const upDown = wander(82, 0.4, 6);
  const roll = wander(83, 0.3, 4);
  const lean = wander(84, 0.15, 0.8);
  const hand = (t: number) => ({
    x: 7 * across(t),
    y: 5.5 * upDown(t),
    rotation: 0.007 * roll(t) + 0.01,
    logScale: 0.06 * Math.sin(t / 1.4),
  });
  /** The wall's plane: it turns away to the right, and the camera walks along it a little. */
  const wall = (t: number): Matrix3 => {
    const away = 0.00062 + 0.00012 * lean(t) + 0.00006 * t;
    const up = -0.00012 + 0.00008 * lean(t + 7);
    const plane: Matrix3 = [1.08, 0.02, 0, 0.03, 1.02, 0, away, up, 1];
    return chain(
      composeSimilarity(hand(t), { x: 0, y: 0 }),
      translation(WIDTH / 2 - 10 + 9 * t, HEIGHT / 2 - 6),
      plane,
      translation(-ACROSS / 2, -DOWN / 2),
    );
  };
  const still = { x: 0, y: 0, rotation: 0, logScale: 0 };
  return {
    name: 'sign',
    width: WIDTH,
    height: HEIGHT,
    fps: 30,
    frames: 180,
    seed: 6,
    shutter: 0.3,
    grain: 2.2,
    flicker: 0.006,
    crf: 21,
    sound,
    sheets: [
      { name: 'wall', layer: wallOf(), pose: () => still, plane: wall },
      { name: 'board', layer: board(), pose: hand, plane: wall },
      {
        name: 'reflection',
        layer: reflection(),
        pose: hand,
        plane: (t) => chain(wall(t), translation(-60 + 52 * t, 20 + 9 * t)),
      },
      {
        name: 'arm',
        layer: arm(),
        pose: (t) => ({
          x: -760 + 330 * t,
          y: 30 - 14 * Math.sin(t * 2.1),
          rotation: -0.1 + 0.05 * Math.sin(t * 2.4),
          logScale: 0,
        }),
      },
    ],
    features: [
      { name: 'top left', sheet: 'board', x: 0, y: 0 },
      { name: 'top right', sheet: 'board', x: ACROSS, y: 0 },
      { name: 'bottom right', sheet: 'board', x: ACROSS, y: DOWN },
      { name: 'bottom left', sheet: 'board', x: 0, y: DOWN },
    ],
  };
}

/** The station's wooden wall behind the board. */
function wallOf(): Layer {
  const l = new Layer(-560, -430, 2000, 1200);
  l.paint(wholeOf(l), boards([142, 108, 76], 46, 91), () => 1);
  for (let x = -540; x < 1440; x += 138)
    for (let y = -400; y < 760; y += 120) l.ellipse(x + 9, y, 3.4, 3.4, [74, 58, 44]);
  l.shade([-14, DOWN, ACROSS + 24, DOWN + 26], (_, y) => 0.4 * smoothstep(DOWN + 26, DOWN, y));
  return l;
}

/** Departures in rows, with a crest, a line drawing of the railway and four screws. */
function board(): Layer {
  const l = new Layer(-12, -12, ACROSS + 24, DOWN + 24);
  const random = randomNumbers(92);
  l.rectangle(-10, -10, ACROSS + 20, DOWN + 20, (x, y) =>
    lit([112, 82, 52], 0.75 + 0.4 * fractalNoise(x / 30, y / 4, 93, 4)),
  );
  const enamel: Colour = [226, 222, 206];
  l.rectangle(0, 0, ACROSS, DOWN, (x, y) => lit(enamel, 0.93 + 0.1 * fractalNoise(x / 40, y / 40, 94, 4)));
  l.rectangle(0, 0, ACROSS, 54, (x, y) => lit([38, 66, 74], 0.9 + 0.2 * valueNoise(x / 9, y / 9, 95)));
  l.ellipse(32, 27, 19, 19, [214, 186, 92]);
  l.ellipse(32, 27, 14, 14, [38, 66, 74]);
  l.polygon(
    [
      [32, 16],
      [43, 36],
      [21, 36],
    ],
    [226, 222, 206],
  );
  letter(l, '1847', 66, 15, 3.6, enamel);
  for (let k = 0; k < 9; k++) l.rectangle(176 + k * 23, 18, 9 + 10 * random(), 8, lit(enamel, 0.9));
  for (let k = 0; k < 7; k++) l.rectangle(176 + k * 29, 33, 12 + 12 * random(), 6, lit(enamel, 0.75));
  for (let row = 0; row < 8; row++) {
    const y = 64 + row * 19;
    if (row % 2 === 0) l.rectangle(6, y - 3, ACROSS - 12, 18, [206, 204, 188]);
    letter(l, `${6 + row * 2}${row % 2 ? '15' : '40'}`, 14, y, 1.9, [42, 44, 48]);
    let x = 84;
    while (x < 300) {
      const w = 4 + 9 * random();
      l.rectangle(x, y + 1, w, 9 + 2 * (random() - 0.5), lit([52, 54, 60], 0.8 + 0.5 * random()));
      x += w + 3 + (random() < 0.2 ? 9 : 0);
    }
    l.rectangle(318, y, 18, 11, row === 3 ? [176, 60, 44] : [60, 104, 84]);
    letter(l, String(1 + (row % 3)), 350, y, 1.9, [42, 44, 48]);
  }
  l.line([14, 232], [386, 232], 1.6, [90, 88, 82]);
  for (let k = 0; k < 6; k++) {
    const x = 36 + k * 64;
    l.line([x, 262 - 4 * k], [x + 64, 258 - 4 * k], 2.4, [176, 60, 44]);
    l.ellipse(x, 262 - 4 * k, 5, 5, [42, 44, 48]);
    l.ellipse(x, 262 - 4 * k, 2.4, 2.4, enamel);
  }
  for (const [x, y] of [
    [9, 9],
    [ACROSS - 9, 9],
    [ACROSS - 9, DOWN - 9],
    [9, DOWN - 9],
  ]) {
    l.ellipse(x, y, 5, 5, [148, 146, 138]);
    l.line([x - 3, y - 2], [x + 3, y + 2], 1.4, [60, 58, 54]);
  }
  l.shade([0, 0, ACROSS, DOWN], (x, y) => 0.1 * smoothstep(0.55, 0.8, fractalNoise(x / 60, y / 26, 96, 4)));
  return l;
}

/** A lamp mirrored in the enamel: a soft light that adds to what is below it. */
function reflection(): Layer {
  const l = new Layer(0, 0, 150, 190);
  l.paint([0, 0, 150, 190], [255, 250, 232], (x, y) => {
    const d = Math.hypot((x - 75) / 62, (y - 95) / 82);
    return 0.62 * smoothstep(1, 0, d);
  });
  return l;
}

/** A sleeve, a glove, and the ski that is carried in it. */
function arm(): Layer {
  const l = new Layer(330, -220, 330, 980);
  const cloth = (x: number, y: number) =>
    lit(
      [154, 62, 44],
      0.55 + 0.5 * fractalNoise(x / 6, y / 7, 97, 4, 0.6) + 0.3 * fractalNoise(x / 40, y / 80, 98, 3),
    );
  l.polygon(
    [
      [452, -220],
      [486, -220],
      [540, 760],
      [500, 760],
    ],
    (x, y) =>
      lit(
        [64, 92, 108],
        mix(1.15, 0.75, smoothstep(450, 540, x)) * (0.85 + 0.25 * valueNoise(x / 4, y / 60, 99)),
      ),
  );
  for (let y = -180; y < 740; y += 86) l.line([462 + y / 20, y], [506 + y / 20, y + 30], 7, [216, 206, 178]);
  l.polygon(
    [
      [360, 330],
      [470, 240],
      [560, 300],
      [600, 760],
      [380, 760],
    ],
    cloth,
  );
  l.shade([360, 240, 610, 760], (x) => 0.35 * smoothstep(540, 610, x));
  l.polygon(
    [
      [440, 200],
      [520, 186],
      [556, 252],
      [540, 310],
      [462, 318],
    ],
    (x, y) => lit([40, 40, 46], 0.7 + 0.6 * fractalNoise(x / 5, y / 5, 100, 3)),
  );
  for (let k = 0; k < 3; k++) l.line([466 + k * 24, 208], [474 + k * 24, 262], 2.2, [82, 82, 90]);
  return l;
}
