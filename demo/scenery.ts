import { blend, lit, type Colour, type Layer, type Paint } from './layer.js';
import { fractalNoise, mix, randomNumbers, smoothstep, valueNoise } from './noise.js';

/** Parts that more than one scene is painted with: sky, mountains, forest, boards, signs. */

export const everywhere = (): number => 1;

export function wholeOf(layer: Layer): readonly [number, number, number, number] {
  return [layer.x, layer.y, layer.x + layer.width, layer.y + layer.height];
}

export function paintSky(layer: Layer, horizon: number, seed: number): void {
  layer.paint(
    wholeOf(layer),
    (x, y) => {
      const t = smoothstep(layer.y, horizon, y);
      const sky = blend([112, 150, 196], [206, 216, 220], t);
      const cloud = smoothstep(0.5, 0.78, fractalNoise(x / 340, y / 130, seed, 6, 0.55));
      const shade = fractalNoise(x / 180 + 4, y / 70 + 9, seed + 5, 4);
      return blend(sky, lit([244, 241, 236], mix(0.86, 1.02, shade)), cloud * 0.85);
    },
    everywhere,
  );
}

/** A ridge with rock, snow above a line and haze with distance. */
export function paintRidge(
  layer: Layer,
  options: { base: number; height: number; wave: number; haze: number; snow: number; seed: number },
): void {
  const { base, height, wave, haze, snow, seed } = options;
  const crest = (x: number) =>
    base - height * (fractalNoise(x / wave, seed * 3.1, seed, 7, 0.48) * 1.5 - 0.25);
  const cache = new Map<number, number>();
  const crestAt = (x: number) => {
    const hit = cache.get(x);
    if (hit !== undefined) return hit;
    const value = crest(x);
    cache.set(x, value);
    return value;
  };
  const relief = (x: number, y: number) => fractalNoise(x / 46, y / 60, seed + 9, 6, 0.6);
  layer.paint(
    wholeOf(layer),
    (x, y) => {
      const depth = y - crestAt(x);
      const slope = relief(x + 2, y + 1) - relief(x - 2, y - 1);
      const light = 0.92 - slope * 4.2;
      const rock = lit(blend([92, 92, 96], [134, 126, 116], fractalNoise(x / 19, y / 23, seed + 2)), light);
      const snowy = smoothstep(0.42, 0.56, relief(x * 1.1, y * 0.8) + (snow - depth) / 130);
      const ground = blend(rock, lit([236, 240, 246], Math.min(1.04, 0.9 - slope * 2)), snowy);
      return blend(ground, [186, 201, 214], haze * smoothstep(-40, 260, depth + 60));
    },
    (x, y) => Math.min(1, Math.max(0, y - crestAt(x) + 0.5)),
  );
}

/** Spruces, row behind row, each a ragged dark cone. */
export function paintForest(
  layer: Layer,
  options: {
    from: (x: number) => number;
    rows: number;
    rowStep: number;
    size: number;
    seed: number;
    haze: number;
  },
): void {
  const random = randomNumbers(options.seed);
  for (let row = 0; row < options.rows; row++) {
    const size = options.size * (0.75 + (0.5 * row) / options.rows);
    for (let x = layer.x - size; x < layer.x + layer.width + size; x += size * (0.24 + 0.3 * random())) {
      const h = size * (0.8 + 0.7 * random());
      const w = h * (0.17 + 0.08 * random());
      const foot = options.from(x) + row * options.rowStep + 14 * random();
      const tone = 0.55 + 0.5 * random();
      const seed = Math.floor(random() * 1e6);
      const hazed = options.haze * (1 - row / options.rows);
      layer.paint(
        [x - w, foot - h, x + w, foot],
        (px, py) => {
          const side = (px - x) / w;
          const n = valueNoise(px / 2.6, py / 2.1, seed);
          const green = lit(blend([34, 49, 38], [72, 88, 54], n), tone * (1.02 - 0.35 * side));
          return blend(green, [170, 188, 200], hazed);
        },
        (px, py) => {
          const t = (py - (foot - h)) / h;
          const half = w * t * (0.72 + 0.5 * valueNoise(py / 3.4, seed, seed)) + 0.6;
          return Math.min(1, Math.max(0, half - Math.abs(px - x) + 0.5));
        },
      );
    }
  }
}

/** Weathered boards running across or upright. */
export function boards(base: Colour, width: number, seed: number, upright = true): Paint {
  return (x, y) => {
    const along = upright ? y : x;
    const over = upright ? x : y;
    const board = Math.floor(over / width);
    const inBoard = over / width - board;
    const grain = fractalNoise(over / 1.7, along / 34 + board * 13, seed, 4, 0.6);
    const tone = 0.78 + 0.3 * valueNoise(board * 3.7, 0.5, seed + 3) + 0.34 * (grain - 0.5);
    const joint = inBoard < 0.09 || inBoard > 0.95 ? 0.55 : 1;
    const weather = mix(1, 0.8, fractalNoise(x / 60, y / 90, seed + 7));
    return lit(base, tone * joint * weather);
  };
}

export function concrete(base: Colour, seed: number): Paint {
  return (x, y) => {
    const stain = fractalNoise(x / 24, y / 110, seed, 5, 0.55);
    const fine = valueNoise(x / 1.3, y / 1.3, seed + 1);
    return lit(base, 0.72 + 0.36 * stain + 0.12 * fine);
  };
}

/** Glass with sky in it, darker below, and one slanting reflection. */
export function pane(seed: number, x0: number, y0: number, h: number): Paint {
  return (x, y) => {
    const t = (y - y0) / h;
    const sky = blend(
      [150, 176, 196],
      [34, 42, 48],
      smoothstep(0, 0.8, t + 0.3 * (fractalNoise(x / 30, y / 24, seed) - 0.5)),
    );
    const streak = smoothstep(0.06, 0, Math.abs(((x - x0) * 0.6 + (y - y0)) / 60 - 0.5 - (seed % 3) * 0.2));
    return blend(sky, [214, 224, 228], 0.4 * streak);
  };
}

const GLYPHS: Record<string, string> = {
  A: '01110100011000111111100011000110001',
  B: '11110100011000111110100011000111110',
  E: '11111100001000011110100001000011111',
  H: '10001100011000111111100011000110001',
  G: '01110100011000010111100011000101110',
  I: '01110001000010000100001000010001110',
  L: '10000100001000010000100001000011111',
  N: '10001110011010110011100011000110001',
  O: '01110100011000110001100011000101110',
  R: '11110100011000111110101001001010001',
  S: '01111100001000001110000010000111110',
  T: '11111001000010000100001000010000100',
  U: '10001100011000110001100011000101110',
  V: '10001100011000110001100010101000100',
  Y: '10001100010101000100001000010000100',
  M: '10001110111010110101100011000110001',
  m: '00000000001101010101101011010110101',
  0: '01110100011001110101110011000101110',
  1: '00100011000010000100001000010001110',
  2: '01110100010000100010001000100011111',
  3: '11110000010000101110000010000111110',
  4: '00010001100101010010111110001000010',
  5: '11111100001111000001000011000101110',
  6: '00110010001000011110100011000101110',
  8: '01110100011000101110100011000101110',
  9: '01110100011000101111000010001001100',
  7: '11111000010001000100010000100001000',
  W: '10001100011000110101101011101110001',
  ' ': '0'.repeat(35),
};

/** Lettering on a five by seven grid, `size` pixels a cell. */
export function letter(layer: Layer, text: string, x: number, y: number, size: number, paint: Paint): void {
  [...text].forEach((glyph, g) => {
    const bits = GLYPHS[glyph];
    if (!bits) throw new Error(`No glyph for "${glyph}".`);
    for (let i = 0; i < 35; i++) {
      if (bits[i] !== '1') continue;
      layer.rectangle(
        x + (g * 6 + (i % 5)) * size - 0.2,
        y + Math.floor(i / 5) * size - 0.2,
        size + 0.4,
        size + 0.4,
        paint,
      );
    }
  });
}
