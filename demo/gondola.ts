import { wander, type Scene } from './film.js';
import { blend, Layer, lit } from './layer.js';
import { fractalNoise, mix, smoothstep, valueNoise } from './noise.js';
import { concrete, letter, paintForest, paintRidge, paintSky, pane } from './scenery.js';

const FPS = 30;
const FRAMES = 150;
/** Pixels a second that the slope passes behind the gondola. */
const PAN = 190;

/** A gondola crossing a slope, followed shakily; for a dozen frames it is hidden behind a pylon. */
export function gondolaScene(sound: string): Scene {
  const across = wander(21, 0.5, 4);
  const upDown = wander(22, 0.5, 5);
  const roll = wander(23, 0.3, 3);
  const drift = wander(24, 0.12, 0.4);
  const swing = wander(25, 0.4, 0.9, 3);
  const camera = (t: number) => ({
    x: 7 * across(t) + 14 * drift(t),
    y: 6 * upDown(t),
    rotation: 0.006 * roll(t),
  });
  const slope = (speed: number) => (t: number) => {
    const c = camera(t);
    return {
      x: c.x - speed * (t - FRAMES / FPS / 2),
      y: c.y - 0.16 * speed * (t - FRAMES / FPS / 2),
      rotation: c.rotation,
      logScale: 0,
    };
  };
  return {
    name: 'gondola',
    width: 960,
    height: 540,
    fps: FPS,
    frames: FRAMES,
    seed: 2,
    shutter: 0.3,
    grain: 2.2,
    flicker: 0.008,
    crf: 22,
    sound,
    sheets: [
      { name: 'slope', layer: slopeLayer(), pose: slope(PAN) },
      {
        name: 'gondola',
        layer: gondolaLayer(),
        pose: (t) => {
          const c = camera(t);
          return {
            x: c.x,
            y: c.y + 3 * drift(t + 2),
            rotation: c.rotation + 0.01 * swing(t),
            logScale: 0.03 * (t / 5 - 0.5),
          };
        },
      },
      { name: 'pylon', layer: pylonLayer(), pose: slope(PAN * 1.75) },
    ],
    features: [
      { name: 'number', sheet: 'gondola', x: 480, y: 322 },
      { name: 'left window', sheet: 'gondola', x: 424, y: 240 },
      { name: 'right window', sheet: 'gondola', x: 538, y: 240 },
      { name: 'hanger', sheet: 'gondola', x: 480, y: 204 },
    ],
  };
}

function slopeLayer(): Layer {
  const l = new Layer(-640, -240, 2240, 1020);
  paintSky(l, 160, 13);
  paintRidge(l, { base: 200, height: 260, wave: 380, haze: 0.6, snow: 160, seed: 14 });
  const meadow = (x: number) => 250 + 0.16 * (x - 480) + 30 * Math.sin(x / 230);
  l.paint(
    [l.x, l.y, l.x + l.width, l.y + l.height],
    (x, y) => {
      const n = fractalNoise(x / 26, y / 14, 15, 6, 0.6);
      const snow = smoothstep(0.52, 0.62, fractalNoise(x / 120, y / 70, 16, 6));
      const rock = smoothstep(0.6, 0.68, fractalNoise(x / 70 + 5, y / 50, 19, 6));
      const grass = lit([104, 112, 70], 0.55 + 0.75 * n);
      return blend(
        blend(grass, lit([128, 124, 118], 0.5 + 0.9 * n), rock),
        lit([232, 236, 242], 0.84 + 0.22 * n),
        snow * 0.8,
      );
    },
    (x, y) => Math.min(1, Math.max(0, y - meadow(x) + 0.5)),
  );
  paintForest(l, { from: (x) => meadow(x) + 60, rows: 3, rowStep: 36, size: 58, seed: 23, haze: 0.42 });
  paintForest(l, { from: (x) => meadow(x) + 320, rows: 3, rowStep: 46, size: 92, seed: 26, haze: 0.12 });
  const hut = { x: 640, y: 372 };
  l.rectangle(hut.x, hut.y, 70, 40, (x, y) => lit([112, 78, 52], 0.7 + 0.5 * fractalNoise(x / 3, y / 30, 3)));
  l.polygon(
    [
      [hut.x - 8, hut.y],
      [hut.x + 35, hut.y - 30],
      [hut.x + 78, hut.y],
    ],
    [86, 88, 92],
  );
  l.rectangle(hut.x + 12, hut.y + 10, 16, 14, [36, 38, 40]);
  l.line(
    [l.x, 130 + 0.16 * (l.x - 480)],
    [l.x + l.width, 130 + 0.16 * (l.x + l.width - 480)],
    3,
    [48, 50, 54],
  );
  l.line([l.x, 92 + 0.16 * (l.x - 480)], [l.x + l.width, 92 + 0.16 * (l.x + l.width - 480)], 2, [70, 72, 76]);
  return l;
}

export function gondolaLayer(): Layer {
  const l = new Layer(340, 90, 280, 300);
  const red = (x: number, y: number) =>
    lit(
      [186, 52, 38],
      mix(1.12, 0.72, smoothstep(390, 570, x)) *
        (0.9 + 0.16 * valueNoise(x / 30, y / 40, 3)) *
        mix(1.05, 0.8, smoothstep(220, 350, y)),
    );
  l.line([480, 128], [480, 206], 6, [58, 60, 62]);
  l.rectangle(452, 118, 56, 12, [74, 78, 80]);
  for (const x of [460, 480, 500]) l.ellipse(x, 131, 6, 6, [36, 38, 40]);
  l.rectangle(470, 200, 20, 8, [92, 94, 96]);
  l.polygon(
    [
      [402, 212],
      [558, 212],
      [574, 236],
      [574, 336],
      [560, 352],
      [400, 352],
      [386, 336],
      [386, 236],
    ],
    red,
  );
  l.rectangle(404, 206, 152, 8, [206, 204, 198]);
  for (const [x, w, seed] of [
    [400, 68, 1],
    [478, 8, 9],
    [494, 66, 2],
  ]) {
    l.rectangle(x, 228, w, 62, w > 10 ? [30, 30, 32] : [210, 206, 196]);
    if (w > 10) l.rectangle(x + 3, 231, w - 6, 56, pane(seed, x, 231, 56));
  }
  for (const [x, h] of [
    [424, 34],
    [446, 28],
    [520, 36],
  ]) {
    l.ellipse(x, 287 - h, 7.5, 9, [118, 88, 74]);
    l.rectangle(x - 10, 294 - h, 20, h - 7, [44 + h, 52, 66]);
  }
  l.rectangle(386, 298, 188, 5, [228, 220, 200]);
  letter(l, '27', 468, 310, 3.6, [240, 234, 220]);
  letter(l, 'LURN', 404, 318, 2, [232, 224, 206]);
  for (let k = 0; k < 9; k++) l.rectangle(540 + (k % 3) * 7, 314 + Math.floor(k / 3) * 7, 4, 4, [90, 24, 18]);
  l.rectangle(396, 350, 168, 6, [52, 54, 56]);
  return l;
}

function pylonLayer(): Layer {
  const l = new Layer(400, -320, 340, 1300);
  const steel = concrete([104, 112, 112], 91);
  const left = 470;
  const right = 622;
  for (const x of [left, right - 34])
    l.rectangle(x, -320, 34, 1300, (px, py) =>
      lit(typeof steel === 'function' ? steel(px, py) : steel, mix(1.15, 0.65, smoothstep(x, x + 34, px))),
    );
  l.rectangle(left + 20, -320, right - left - 40, 1300, (x, y) =>
    lit([70, 76, 76], 0.75 + 0.4 * fractalNoise(x / 14, y / 30, 92)),
  );
  for (let y = -320; y < 980; y += 84) {
    l.line([left + 34, y], [right - 34, y + 84], 9, [96, 102, 100]);
    l.line([right - 34, y], [left + 34, y + 84], 9, [84, 90, 88]);
    l.rectangle(left, y - 5, right - left, 10, [122, 128, 124]);
    for (const x of [left + 6, left + 22, right - 28, right - 12]) l.ellipse(x + 3, y, 3, 3, [56, 60, 58]);
  }
  l.rectangle(left + 44, 200, 64, 40, [214, 184, 76]);
  letter(l, '14', left + 62, 208, 3.2, [40, 38, 34]);
  l.defocus(1);
  return l;
}
