import { createPlane, type Plane } from './plane.js';
import { channelPlane, type ColourPlanes } from './channel.js';
import { filterEye, PLAIN_EYE, type Eye } from './eye.js';
import { Pyramid } from './pyramid.js';
import { normal, randomNumbers } from '../testing/footage.js';

const W = 150;
const H = 110;
function noisy(seed: number, value: (x: number, y: number) => number): Plane {
  const random = randomNumbers(seed);
  const p = createPlane(W, H);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) p.data[y * W + x] = value(x, y) + 4 * normal(random);
  return p;
}
const deviation = (p: Plane, x0: number, x1: number) => {
  const values: number[] = [];
  for (let y = 30; y < 80; y++) for (let x = x0; x < x1; x++) values.push(p.data[y * W + x]);
  const mean = values.reduce((a, b) => a + b, 0) / values.length;
  return Math.sqrt(values.reduce((s, v) => s + (v - mean) ** 2, 0) / values.length);
};
const seen = (p: Plane, eye: Partial<Eye>) => {
  const out = createPlane(W, H);
  filterEye(p, { ...PLAIN_EYE, ...eye }, out, 0, 0, W, H);
  return out;
};

describe('the tracker’s eye', () => {
  const flat = noisy(1, () => 120);
  const faint = noisy(2, (x, y) => 120 + 6 * Math.sin(x / 2.2) * Math.sin(y / 2.5));

  it('softens noise away', () => {
    expect(deviation(seen(flat, { soften: 2 }), 40, 110)).toBeLessThan(0.3 * deviation(flat, 40, 110));
  });

  it('raises detail', () => {
    expect(deviation(seen(faint, { detail: 2 }), 40, 110)).toBeGreaterThan(1.8 * deviation(faint, 40, 110));
  });

  it('evens out contrast between a dull and a lively part', () => {
    const uneven = noisy(3, (x, y) => 90 + (x < 75 ? 8 : 60) * Math.sin(x / 2.2) * Math.sin(y / 2.5));
    const before = deviation(uneven, 90, 140) / deviation(uneven, 10, 60);
    const even = seen(uneven, { localContrast: 1 });
    expect(before).toBeGreaterThan(3);
    expect(deviation(even, 90, 140) / deviation(even, 10, 60)).toBeLessThan(0.5 * before);
  });

  it('seen by tiles, as the tracker asks for them, is the same as all at once', () => {
    const eye: Eye = { channel: 'luma', soften: 1.2, detail: 1.5, localContrast: 0.6 };
    const whole = seen(faint, eye);
    const picture = new Pyramid(faint, 3, undefined, eye);
    picture.need(0, 60, 40, 100, 70);
    for (let y = 40; y < 70; y++) {
      for (let x = 60; x < 100; x++) expect(picture.levels[0].data[y * W + x]).toBe(whole.data[y * W + x]);
    }
    expect(picture.levels[0].data[0]).toBe(whole.data[0]); // of the same tile
    expect(picture.levels[0].data[100 * W + 140]).toBe(0); // never asked for
  });
});

describe('channels', () => {
  /** One colour in BT.709, limited range. */
  const planes = (r: number, g: number, b: number): ColourPlanes => {
    const y = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    const fill = (v: number, w: number, h: number) => {
      const p = createPlane(w, h);
      p.data.fill(Math.round(v));
      return p;
    };
    return {
      y: fill(16 + (219 * y) / 255, 4, 4),
      u: fill(128 + (224 * (b - y)) / (1.8556 * 255), 2, 2),
      v: fill(128 + (224 * (r - y)) / (1.5748 * 255), 2, 2),
      subsampling: { x: 2, y: 2 },
    };
  };
  const code = { range: 'tv', space: 'bt709' } as const;

  it.each([
    [200, 40, 30],
    [20, 180, 90],
    [60, 70, 220],
  ])('give back red, green and blue of %d, %d, %d', (r, g, b) => {
    const at = (channel: 'red' | 'green' | 'blue') => channelPlane(planes(r, g, b), channel, code).data[5];
    expect(Math.abs(at('red') - r)).toBeLessThan(3);
    expect(Math.abs(at('green') - g)).toBeLessThan(3);
    expect(Math.abs(at('blue') - b)).toBeLessThan(3);
  });

  it('tell a grey from a colour by saturation, however bright', () => {
    const saturation = (r: number, g: number, b: number) =>
      channelPlane(planes(r, g, b), 'saturation', code).data[0];
    expect(saturation(40, 40, 40)).toBeLessThan(4);
    expect(saturation(220, 220, 220)).toBeLessThan(4);
    expect(saturation(200, 40, 30)).toBeGreaterThan(80);
  });
});
