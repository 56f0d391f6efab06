import type { SimilarityParts } from '@lurn/core/geometry';
import { wander, type Scene } from './film.js';
import { blend, Layer, lit } from './layer.js';
import { fractalNoise, mix, smoothstep, valueNoise } from './noise.js';
import { boards, concrete, letter, paintForest, paintRidge, paintSky, pane } from './scenery.js';

const FPS = 30;
const FRAMES = 240;
/** Pixels that the pan passes over, and the seconds in which it does. */
const PAN = 900;
const PAN_FROM = 0.8;
const PAN_TO = 7.2;
/** Steps a second of the walk, and the sway, once for every two steps. */
const STEPS = 2.2;
const SWAY = STEPS / 2;

/** A walking pan across a ridge, from the pylon to the top station; the fence in front passes faster. */
export function ridgeScene(sound: string): Scene {
  const across = wander(31, 1.4, 6);
  const upDown = wander(32, 1.4, 7);
  const roll = wander(33, 1.3, 5);
  const swell = wander(34, 1.3, 3);
  const wave = (hertz: number, phase: number, t: number) => Math.sin(2 * Math.PI * (hertz * t + phase));
  const pan = (t: number) => {
    const u = smoothstep(0, 1, (t - PAN_FROM) / (PAN_TO - PAN_FROM));
    // The pan that was meant: it sets off and comes to rest gently, and rises a little on its way.
    return { x: PAN * (0.5 - gentle(t)), y: 36 * (u - 0.5), rotation: 0, logScale: 0.03 * (t / 8 - 0.5) };
  };
  const shake = (t: number): SimilarityParts => ({
    x: 6 * wave(SWAY, 0.1, t) + 3.2 * across(t),
    y: 8 * wave(STEPS, 0.35, t) + 2.5 * wave(2 * STEPS, 0.6, t) + 2.8 * upDown(t),
    rotation: 0.007 * wave(SWAY, 0.3, t) + 0.0025 * roll(t),
    logScale: 0.0025 * wave(STEPS, 0.8, t) + 0.001 * swell(t),
  });
  const walked = (nearness: number) => (t: number) => {
    const [m, s] = [pan(t), shake(t)];
    return {
      x: nearness * (m.x + s.x),
      y: nearness * (m.y + s.y),
      rotation: s.rotation,
      logScale: m.logScale + s.logScale,
    };
  };
  return {
    name: 'ridge',
    width: 1280,
    height: 720,
    fps: FPS,
    frames: FRAMES,
    seed: 3,
    shutter: 0.3,
    grain: 2.2,
    flicker: 0.01,
    crf: 23,
    sound,
    sheets: [
      { name: 'ridge', layer: ridgeLayer(), pose: walked(1), meant: pan },
      { name: 'fence', layer: fenceLayer(), pose: walked(1.5) },
    ],
    features: [
      { name: 'pylon head', sheet: 'ridge', x: 300, y: 250 },
      { name: 'hut', sheet: 'ridge', x: 560, y: 404 },
      { name: 'cairn', sheet: 'ridge', x: 726, y: 446 },
      { name: 'marker', sheet: 'ridge', x: 900, y: 400 },
      { name: 'station roof', sheet: 'ridge', x: 1040, y: 296 },
      { name: 'board', sheet: 'ridge', x: 640, y: 330 },
      { name: 'fence post', sheet: 'fence', x: 640, y: 640 },
    ],
  };
}

/** From 0 to 1 with neither speed nor acceleration at its ends (a quintic). */
function gentle(t: number): number {
  const u = Math.min(1, Math.max(0, (t - PAN_FROM) / (PAN_TO - PAN_FROM)));
  return u * u * u * (u * (6 * u - 15) + 10);
}

function ridgeLayer(): Layer {
  const l = new Layer(-620, -160, 2520, 1040);
  paintSky(l, 330, 41);
  paintRidge(l, { base: 330, height: 290, wave: 360, haze: 0.62, snow: 150, seed: 42 });
  paintRidge(l, { base: 440, height: 190, wave: 300, haze: 0.34, snow: 10, seed: 47 });
  const crest = (x: number) => 470 + 26 * Math.sin(x / 210) - 0.03 * (x - 640);
  l.paint(
    [l.x, 380, l.x + l.width, l.y + l.height],
    (x, y) => {
      const n = fractalNoise(x / 24, y / 13, 51, 6, 0.6);
      const rock = smoothstep(0.55, 0.64, fractalNoise(x / 80, y / 50, 52, 6));
      return blend(lit([108, 112, 72], 0.55 + 0.75 * n), lit([134, 130, 124], 0.5 + 0.9 * n), rock);
    },
    (x, y) => Math.min(1, Math.max(0, y - crest(x) + 0.5)),
  );
  paintForest(l, { from: (x) => crest(x) + 90, rows: 2, rowStep: 34, size: 54, seed: 53, haze: 0.4 });
  pylon(l, 300, 250, crest(300) + 14);
  pylon(l, 900, 400, crest(900) + 10);
  hut(l, 560, 404);
  for (const [x, y, r] of [
    [726, 458, 14],
    [722, 448, 9],
    [727, 440, 6],
  ])
    l.ellipse(x, y, r, r * 0.7, (px, py) => lit([150, 146, 138], 0.6 + 0.7 * valueNoise(px / 3, py / 3, 61)));
  l.rectangle(636, 340, 5, 130, [92, 78, 60]);
  l.rectangle(600, 320, 80, 26, [214, 184, 76]);
  letter(l, 'GRAT', 606, 324, 3, [40, 38, 34]);
  topStation(l, 1040, 296);
  l.line([l.x, 205], [300, 250], 2.6, [52, 54, 58]);
  l.line([300, 250], [1040, 318], 2.6, [52, 54, 58]);
  return l;
}

function pylon(l: Layer, x: number, y: number, foot: number): void {
  const steel = (px: number, py: number) => lit([96, 102, 104], 0.75 + 0.4 * valueNoise(px / 3, py / 9, 63));
  l.polygon(
    [
      [x - 6, y],
      [x + 6, y],
      [x + 20, foot],
      [x - 20, foot],
    ],
    steel,
  );
  l.rectangle(x - 34, y - 6, 68, 9, lit([90, 94, 96], 1.05));
  for (const dx of [-30, 30]) l.ellipse(x + dx, y + 7, 6, 6, [44, 46, 48]);
  l.rectangle(x - 11, y + 40, 22, 16, [226, 222, 210]);
  letter(l, '4', x - 4, y + 42, 1.6, [40, 38, 34]);
}

function hut(l: Layer, x: number, y: number): void {
  l.rectangle(x - 40, y, 80, 60, boards([126, 88, 56], 9, 64));
  l.polygon(
    [
      [x - 50, y + 2],
      [x, y - 34],
      [x + 50, y + 2],
    ],
    concrete([84, 86, 92], 65),
  );
  for (const dx of [-26, 10]) l.rectangle(x + dx, y + 16, 17, 18, pane(3, x + dx, y + 16, 18));
}

function topStation(l: Layer, x: number, y: number): void {
  l.rectangle(x - 20, y + 40, 330, 150, concrete([176, 170, 160], 66));
  l.polygon(
    [
      [x - 50, y + 44],
      [x, y],
      [x + 300, y],
      [x + 340, y + 44],
    ],
    boards([96, 72, 58], 11, 67, false),
  );
  for (let k = 0; k < 5; k++)
    l.rectangle(x + 6 + k * 58, y + 70, 34, 40, pane(k, x + 6 + k * 58, y + 70, 40));
  l.rectangle(x + 60, y + 124, 180, 30, [38, 62, 54]);
  letter(l, 'BERG', x + 76, y + 128, 3, [232, 226, 208]);
}

/** A fence along the path: posts and two wires, near the camera. */
function fenceLayer(): Layer {
  const l = new Layer(-900, 520, 3200, 420);
  for (let x = -860; x < 2260; x += 150) {
    l.rectangle(x - 8, 590, 16, 340, boards([110, 92, 70], 5, Math.abs(x)));
    l.rectangle(x - 10, 584, 20, 8, (px) => lit([140, 128, 108], mix(1.1, 0.7, (px - x + 10) / 20)));
  }
  for (const y of [622, 668]) l.line([-900, y], [2300, y], 3, [70, 68, 64]);
  l.defocus(1);
  return l;
}
