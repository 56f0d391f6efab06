import { wander, type Scene } from './film.js';
import { blend, Layer, lit } from './layer.js';
import { fractalNoise, mix, smoothstep, valueNoise } from './noise.js';
import { boards, concrete, letter, paintForest, paintRidge, paintSky, pane } from './scenery.js';

/** A hand-held shot of the valley station; the platform railing in front moves more than the building. */
export function stationScene(sound: string): Scene {
  const across = wander(11, 0.4, 5);
  const upDown = wander(12, 0.4, 6);
  const roll = wander(13, 0.3, 4);
  const breathe = wander(14, 0.2, 2);
  const pose = (nearness: number) => (t: number) => ({
    x: 11 * nearness * across(t),
    y: 8.5 * nearness * upDown(t),
    rotation: 0.0085 * roll(t),
    logScale: 0.004 * breathe(t),
  });
  return {
    name: 'station',
    width: 1280,
    height: 720,
    fps: 30,
    frames: 180,
    seed: 1,
    shutter: 0.35,
    grain: 2.4,
    flicker: 0.012,
    crf: 23,
    sound,
    sheets: [
      { name: 'station', layer: valleyStation(), pose: pose(1) },
      { name: 'railing', layer: railing(), pose: pose(1.55) },
    ],
    features: [
      { name: 'gable', sheet: 'station', x: 388, y: 262 },
      { name: 'window', sheet: 'station', x: 484, y: 418 },
      { name: 'sign', sheet: 'station', x: 586, y: 322 },
      { name: 'clock', sheet: 'station', x: 812, y: 300 },
      { name: 'door', sheet: 'station', x: 900, y: 400 },
      { name: 'mast', sheet: 'station', x: 1086, y: 214 },
      { name: 'rail post', sheet: 'railing', x: 300, y: 640 },
      { name: 'rail plate', sheet: 'railing', x: 960, y: 650 },
    ],
  };
}

export function valleyStation(): Layer {
  const l = new Layer(-110, -100, 1500, 920);
  paintSky(l, 330, 3);
  paintRidge(l, { base: 330, height: 300, wave: 330, haze: 0.62, snow: 150, seed: 4 });
  paintRidge(l, { base: 420, height: 240, wave: 260, haze: 0.34, snow: 20, seed: 8 });
  paintForest(l, {
    from: (x) => 400 + 26 * Math.sin(x / 170),
    rows: 5,
    rowStep: 22,
    size: 62,
    seed: 5,
    haze: 0.5,
  });
  l.paint(
    [l.x, 505, l.x + l.width, 830],
    (x, y) => {
      const gravel = fractalNoise(x / 9, y / 5, 17, 5, 0.62);
      const grass = smoothstep(0.48, 0.6, fractalNoise(x / 90, y / 40, 18, 5));
      return blend(
        lit([150, 143, 132], 0.62 + 0.62 * gravel),
        lit([96, 108, 62], 0.62 + 0.6 * gravel),
        grass * 0.85,
      );
    },
    (x, y) => Math.min(1, Math.max(0, y - 512 - 5 * valueNoise(x / 30, 1, 3) + 0.5)),
  );
  paintCable(l);
  paintHouse(l);
  return l;
}

function paintCable(l: Layer): void {
  const steel = (x: number, y: number) => lit([92, 98, 100], 0.75 + 0.4 * valueNoise(x / 3, y / 9, 31));
  l.polygon(
    [
      [1078, 208],
      [1094, 208],
      [1112, 530],
      [1060, 530],
    ],
    steel,
  );
  for (let i = 0; i < 9; i++) {
    const y = 226 + i * 34;
    const half = 8 + (18 * (y - 208)) / 322;
    l.line([1086 - half, y], [1086 + half, y + 30], 2.4, [58, 62, 64]);
    l.line([1086 + half, y], [1086 - half, y + 30], 2.4, [70, 74, 76]);
  }
  l.rectangle(1052, 202, 68, 12, lit([96, 100, 102], 1.05));
  l.rectangle(1052, 211, 68, 4, [40, 43, 45]);
  for (const x of [1056, 1104]) l.ellipse(x + 6, 219, 9, 9, [44, 46, 48]);
  l.line([1062, 219], [1400, -14], 2.6, [52, 54, 58]);
  l.line([1112, 219], [1400, 30], 2.6, [52, 54, 58]);
  l.line([700, 380], [1062, 219], 2.6, [52, 54, 58]);
  const cabin = { x: 1218, y: 132 };
  l.line([cabin.x, cabin.y - 36], [cabin.x, cabin.y], 2.4, [46, 48, 50]);
  l.rectangle(cabin.x - 20, cabin.y, 40, 34, (x, y) =>
    lit([170, 60, 44], 0.8 + 0.3 * valueNoise(x / 8, y / 8, 2)),
  );
  l.rectangle(cabin.x - 16, cabin.y + 4, 14, 14, pane(2, cabin.x - 16, cabin.y, 16));
  l.rectangle(cabin.x + 2, cabin.y + 4, 14, 14, pane(4, cabin.x, cabin.y, 16));
}

function paintHouse(l: Layer): void {
  const wood = boards([138, 98, 62], 13, 40);
  // Ground floor in concrete, upper floor in boards, under one wide gable.
  l.shade(
    [300, 512, 1010, 560],
    (x, y) => 0.45 * smoothstep(556, 520, y) * smoothstep(300, 340, x) * smoothstep(1010, 970, x),
  );
  l.rectangle(350, 384, 610, 142, concrete([174, 168, 158], 41));
  l.polygon(
    [
      [356, 280],
      [655, 168],
      [954, 280],
      [954, 388],
      [356, 388],
    ],
    wood,
  );
  l.shade([356, 160, 954, 420], (x, y) => {
    const below = y - (168 + 0.375 * Math.abs(x - 655));
    return below < 0 ? 0 : 0.5 * smoothstep(46, 8, below) + 0.12 * fractalNoise(x / 40, y / 40, 43);
  });
  l.shade([350, 388, 960, 412], (_, y) => 0.55 * smoothstep(412, 388, y));
  // Roof: two slopes of sheet metal with standing seams, snow left on the upper part.
  for (const side of [-1, 1]) {
    const edge = (dx: number, dy: number) => [655 + side * dx, dy] as const;
    const outline = [edge(0, 142), edge(350, 273), edge(344, 292), edge(0, 164)];
    l.polygon(side > 0 ? outline : [...outline].reverse(), (x, y) => {
      const seam = Math.abs(((x - 655) / 23) % 1) < 0.1 ? 0.72 : 1;
      return lit([104, 108, 112], seam * (0.78 + 0.4 * fractalNoise(x / 22, y / 12, 45)));
    });
    l.line(edge(0, 163), edge(346, 291), 4, [62, 46, 34]);
  }
  l.paint([470, 138, 860, 226], [232, 236, 240], (x, y) => {
    const top = 144 + 0.375 * Math.abs(x - 655);
    const depth = 13 * smoothstep(190, 40, Math.abs(x - 690 - 8 * valueNoise(x / 30, 1, 9)));
    return (
      smoothstep(0, 1.5, y - top) *
      smoothstep(0, 1.5, top + depth - y + 3 * valueNoise(x / 9, 2, 8)) *
      (depth > 1 ? 1 : 0)
    );
  });
  // The bright triangle of the gable's end board.
  l.polygon(
    [
      [380, 254],
      [396, 248],
      [396, 276],
      [380, 276],
    ],
    lit([226, 214, 190], 0.95),
  );
  l.rectangle(388, 262, 8, 14, [52, 36, 28]);
  paintWindows(l);
  paintSignAndDoor(l);
}

function paintWindows(l: Layer): void {
  const frame = [228, 222, 208] as const;
  for (const [x, y, w, h, seed] of [
    [406, 300, 58, 50, 1],
    [484, 300, 58, 50, 2],
    [752, 318, 40, 48, 8],
    [850, 300, 58, 50, 3],
    [404, 418, 80, 66, 4],
    [500, 418, 80, 66, 5],
  ]) {
    l.rectangle(x - 5, y - 5, w + 10, h + 10, frame);
    l.rectangle(x, y, w, h, pane(seed, x, y, h));
    l.rectangle(x + w / 2 - 2, y, 4, h, frame);
    l.rectangle(x, y + h * 0.42, w, 3, frame);
    l.rectangle(x - 9, y + h + 5, w + 18, 5, concrete([190, 184, 172], seed));
    l.shade(
      [x - 9, y + h + 10, x + w + 9, y + h + 20],
      (_, py) => 0.4 * smoothstep(y + h + 20, y + h + 10, py),
    );
    if (y < 400) {
      for (const sx of [x - 21, x + w + 6]) {
        l.rectangle(sx, y - 4, 15, h + 8, boards([66, 84, 62], 5, 60 + seed, false));
      }
    }
  }
}

function paintSignAndDoor(l: Layer): void {
  l.rectangle(586, 322, 150, 42, [32, 52, 58]);
  l.rectangle(589, 325, 144, 36, (x, y) => lit([42, 76, 82], 0.9 + 0.2 * valueNoise(x / 20, y / 14, 6)));
  letter(l, 'VALLEY STATION', 594, 331, 1.62, [234, 230, 214]);
  letter(l, '1140 m', 634, 346, 1.62, [222, 190, 92]);
  l.ellipse(829, 317, 26, 26, [40, 42, 44]);
  l.ellipse(829, 317, 22.5, 22.5, (x, y) => lit([238, 234, 222], 1 - 0.1 * smoothstep(0, 40, x + y - 1130)));
  for (let k = 0; k < 12; k++) {
    const a = (k * Math.PI) / 6;
    const [s, c] = [Math.sin(a), -Math.cos(a)];
    l.line([829 + 17 * s, 317 + 17 * c], [829 + 21 * s, 317 + 21 * c], k % 3 ? 1.4 : 2.8, [36, 36, 36]);
  }
  l.line([829, 317], [841, 310], 3, [30, 30, 30]);
  l.line([829, 317], [826, 299], 2.2, [30, 30, 30]);
  // The entrance, dark inside, with a lit ticket window beside it.
  l.rectangle(796, 400, 112, 126, [58, 46, 38]);
  l.rectangle(804, 408, 96, 118, (x, y) =>
    blend([22, 24, 26], [96, 80, 58], 0.6 * smoothstep(520, 420, y) * valueNoise(x / 26, y / 40, 12)),
  );
  l.rectangle(850, 408, 4, 118, [84, 68, 52]);
  l.rectangle(620, 420, 130, 74, [70, 56, 46]);
  l.rectangle(627, 427, 116, 60, (x, y) =>
    blend([224, 182, 104], [120, 84, 52], smoothstep(430, 486, y + 8 * valueNoise(x / 12, y / 9, 3))),
  );
  for (const [x, h, tone] of [
    [648, 34, 50],
    [676, 42, 70],
    [708, 38, 40],
  ]) {
    l.rectangle(x, 487 - h, 18, h, [tone, tone * 0.8, tone * 0.7]);
    l.ellipse(x + 9, 487 - h - 4, 7, 8, [176, 136, 112]);
  }
  l.rectangle(612, 488, 146, 8, concrete([150, 144, 136], 71));
  l.rectangle(916, 396, 30, 44, [226, 220, 204]);
  for (let k = 0; k < 6; k++) l.rectangle(920, 402 + k * 6, 12 + ((k * 7) % 11), 2.4, [86, 80, 76]);
}

/** The platform's railing close to the camera, a little out of focus. */
function railing(): Layer {
  const l = new Layer(-160, 520, 1600, 360);
  const paint = (x: number, y: number) => {
    const rust = smoothstep(0.62, 0.76, fractalNoise(x / 22, y / 22, 81, 5));
    return blend(lit([118, 126, 122], 0.7 + 0.5 * valueNoise(x / 40, y / 3, 80)), [112, 72, 48], rust * 0.8);
  };
  for (let x = -150; x < 1440; x += 57) {
    const post = (x + 150) % 228 === 0;
    l.rectangle(x, 588, post ? 17 : 7, 300, (px, py) =>
      lit(paint(px, py), mix(1.15, 0.6, smoothstep(x, x + (post ? 17 : 7), px))),
    );
  }
  l.rectangle(l.x, 576, l.width, 22, (x, y) => lit(paint(x, y), mix(1.5, 0.55, smoothstep(576, 598, y))));
  l.rectangle(l.x, 740, l.width, 12, (x, y) => lit(paint(x, y), mix(1.3, 0.6, smoothstep(740, 752, y))));
  l.rectangle(960, 614, 130, 74, [206, 176, 74]);
  l.rectangle(968, 622, 114, 58, [34, 34, 32]);
  letter(l, 'NO SNOW', 978, 630, 2.3, [222, 206, 150]);
  letter(l, 'ON RAIL', 978, 654, 2.3, [222, 206, 150]);
  l.rectangle(289, 622, 40, 50, lit([196, 190, 176], 0.9));
  l.rectangle(300, 640, 29, 32, [60, 60, 58]);
  l.defocus(1);
  return l;
}
