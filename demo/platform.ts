import { wander, type Scene } from './film.js';
import { gondolaLayer } from './gondola.js';
import { blend, Layer, lit } from './layer.js';
import { fractalNoise, mix, smoothstep, valueNoise } from './noise.js';
import { concrete, letter } from './scenery.js';
import { valleyStation } from './station.js';

/** Seconds at which the picture is cut to the lower rails. */
const CUT = 5;

/**
 * A guard who sways before the valley station and fills a third of the picture while a gondola passes behind him; then a
 * cut to the rails below the platform.
 */
export function platformScene(sound: string): Scene {
  const across = wander(51, 0.4, 5);
  const upDown = wander(52, 0.4, 6);
  const roll = wander(53, 0.3, 4);
  const shift = wander(54, 0.25, 0.7, 3);
  const shake = (t: number) => ({
    x: 6 * across(t),
    y: 5 * upDown(t),
    rotation: 0.006 * roll(t),
    logScale: 0,
  });
  return {
    name: 'platform',
    width: 960,
    height: 540,
    fps: 30,
    frames: 240,
    seed: 5,
    shutter: 0.3,
    grain: 2.2,
    flicker: 0.006,
    crf: 23,
    sound,
    sheets: [
      {
        name: 'station',
        layer: valleyStation(),
        until: CUT,
        pose: (t) => {
          const s = shake(t);
          return { ...s, x: s.x - 140, y: s.y - 60 };
        },
      },
      {
        name: 'gondola',
        layer: gondolaLayer(),
        until: CUT,
        pose: (t) => {
          const s = shake(t);
          return { x: s.x - 560 + 210 * t, y: s.y - 70 - 26 * t, rotation: s.rotation, logScale: -0.25 };
        },
      },
      {
        name: 'guard',
        layer: guard(),
        until: CUT,
        pose: (t) => {
          const s = shake(t);
          return {
            x: s.x + 22 * shift(t),
            y: s.y + 4 * Math.abs(shift(t + 0.4)),
            rotation: s.rotation + 0.02 * shift(t + 0.2),
            logScale: 0,
          };
        },
      },
      {
        name: 'rails',
        layer: lowerRails(),
        from: CUT,
        pose: (t) => {
          const s = shake(t + 3);
          return { ...s, x: 1.2 * s.x, y: 1.2 * s.y };
        },
      },
    ],
    features: [
      { name: 'gable', sheet: 'station', x: 388, y: 262 },
      { name: 'sign', sheet: 'station', x: 586, y: 322 },
      { name: 'mast', sheet: 'station', x: 1086, y: 214 },
      { name: 'badge', sheet: 'guard', x: 556, y: 330 },
      { name: 'button', sheet: 'guard', x: 480, y: 402 },
      { name: 'bolt', sheet: 'rails', x: 300, y: 330 },
      { name: 'plate', sheet: 'rails', x: 690, y: 180 },
    ],
  };
}

/** The guard from the waist up, in a heavy coat. */
function guard(): Layer {
  const l = new Layer(240, 40, 480, 640);
  const cloth = (x: number, y: number) => {
    const weave = fractalNoise(x / 5, y / 5, 61, 4, 0.65);
    const fold = fractalNoise(x / 34, y / 110, 62, 4);
    return lit([58, 70, 88], 0.5 + 0.5 * weave + 0.75 * fold);
  };
  l.polygon(
    [
      [404, 262],
      [556, 262],
      [652, 304],
      [686, 420],
      [700, 660],
      [260, 660],
      [274, 420],
      [308, 304],
    ],
    cloth,
  );
  l.shade([300, 300, 360, 660], (x) => 0.35 * smoothstep(360, 310, x));
  l.shade([610, 300, 700, 660], (x) => 0.4 * smoothstep(620, 690, x));
  // Lapels, buttons, stripes that throw light back.
  l.line([430, 262], [478, 380], 9, [36, 44, 58]);
  l.line([530, 262], [482, 380], 9, [36, 44, 58]);
  l.line([480, 380], [480, 660], 2.4, [30, 36, 48]);
  for (let k = 0; k < 5; k++) {
    l.ellipse(466, 402 + k * 48, 7, 7, [186, 150, 70]);
    l.ellipse(494, 402 + k * 48, 7, 7, [186, 150, 70]);
  }
  for (const y of [450, 520])
    l.rectangle(286, y, 396, 17, (x, py) =>
      lit([206, 210, 190], 0.7 + 0.4 * valueNoise(x / 7, py / 5, 63) * mix(1, 0.6, smoothstep(560, 680, x))),
    );
  l.rectangle(536, 318, 44, 26, [190, 160, 78]);
  l.rectangle(540, 322, 36, 18, [40, 46, 60]);
  letter(l, '27', 547, 325, 1.9, [226, 206, 140]);
  // Head: neck, face with beard, cap.
  l.rectangle(448, 222, 64, 52, lit([168, 126, 102], 0.86));
  l.ellipse(480, 178, 56, 70, (x, y) =>
    lit([196, 150, 122], 0.82 + 0.18 * valueNoise(x / 16, y / 18, 64) - 0.2 * smoothstep(500, 540, x)),
  );
  l.ellipse(480, 222, 47, 31, (x, y) => lit([92, 72, 56], 0.6 + 0.7 * fractalNoise(x / 4, y / 9, 65, 3)));
  for (const x of [459, 501]) {
    l.ellipse(x, 168, 7.5, 4.6, [238, 234, 228]);
    l.ellipse(x, 168, 3.4, 3.6, [44, 36, 30]);
    l.rectangle(x - 11, 154, 22, 4, [78, 60, 46]);
  }
  l.polygon(
    [
      [480, 168],
      [489, 197],
      [472, 197],
    ],
    lit([180, 132, 106], 0.92),
  );
  l.rectangle(418, 98, 124, 40, (x, y) => lit([50, 60, 78], 0.7 + 0.5 * fractalNoise(x / 6, y / 6, 66, 3)));
  l.ellipse(480, 100, 68, 30, (x, y) => lit([56, 66, 84], 0.7 + 0.5 * fractalNoise(x / 6, y / 6, 67, 3)));
  l.rectangle(418, 124, 124, 9, [196, 162, 82]);
  l.ellipse(480, 142, 62, 9, [26, 30, 38]);
  l.ellipse(480, 108, 9, 9, [200, 168, 88]);
  return l;
}

/** Rails on sleepers, seen from above, with the foot of the platform's wall. */
function lowerRails(): Layer {
  const l = new Layer(-120, -100, 1200, 760);
  l.paint(
    [l.x, l.y, l.x + l.width, l.y + l.height],
    (x, y) => {
      const stone = fractalNoise(x / 7, y / 6, 71, 5, 0.66);
      const wet = smoothstep(0.5, 0.62, fractalNoise(x / 130, y / 60, 72, 4));
      return lit(blend([146, 138, 126], [98, 96, 94], wet), 0.45 + 0.95 * stone);
    },
    () => 1,
  );
  for (let x = -100; x < 1080; x += 92) {
    l.rectangle(x, 196, 44, 330, (px, py) =>
      lit(
        [104, 82, 62],
        0.55 + 0.5 * fractalNoise(px / 4, py / 46, 73, 4) + 0.2 * valueNoise(px / 20, py / 20, 74),
      ),
    );
    l.shade([x + 44, 196, x + 54, 526], (px) => 0.45 * smoothstep(x + 54, x + 44, px));
  }
  for (const y of [262, 440]) {
    for (let x = -100; x < 1080; x += 92) {
      l.rectangle(x + 4, y - 12, 36, 44, (px, py) =>
        lit([82, 78, 74], 0.8 + 0.3 * valueNoise(px / 6, py / 6, 75)),
      );
      for (const [dx, dy] of [
        [10, -6],
        [34, -6],
        [10, 26],
        [34, 26],
      ])
        l.ellipse(x + dx, y + dy, 4, 4, [58, 50, 44]);
    }
    l.rectangle(l.x, y, l.width, 20, (x, py) =>
      lit(
        [128, 122, 116],
        mix(1.35, 0.6, smoothstep(y, y + 20, py)) * (0.85 + 0.2 * valueNoise(x / 18, py / 2, 76)),
      ),
    );
    l.rectangle(l.x, y + 6, l.width, 5, lit([196, 196, 198], 1));
  }
  l.rectangle(l.x, l.y, l.width, 238, concrete([164, 160, 152], 77));
  for (let x = -60; x < 1080; x += 240) l.line([x, l.y], [x, 138], 3, [92, 90, 86]);
  l.shade([l.x, 138, l.x + l.width, 176], (_, y) => 0.5 * smoothstep(176, 138, y));
  l.rectangle(640, 40, 150, 60, [206, 176, 74]);
  l.rectangle(647, 47, 136, 46, [34, 34, 32]);
  letter(l, 'LOWER RAILS', 655, 55, 1.75, [222, 206, 150]);
  letter(l, 'NO WAY IN', 664, 74, 1.75, [222, 206, 150]);
  return l;
}
