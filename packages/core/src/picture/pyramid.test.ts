import { randomNumbers } from '../testing/footage.js';
import { PLAIN_EYE } from './eye.js';
import { planeOver, type Plane } from './plane.js';
import { halve, halvedPlane, Pyramid } from './pyramid.js';

const random = randomNumbers(3);
const noise = (width: number, height: number) =>
  planeOver(
    Uint8Array.from({ length: width * height }, () => 255 * random()),
    width,
    height,
  );
const mean = ({ data }: Plane) => data.reduce((a, b) => a + b, 0) / data.length;

describe('the pyramid', () => {
  it('halves coordinates exactly: a slope stays where it is', () => {
    const slope = planeOver(
      Uint8Array.from({ length: 64 * 48 }, (_, i) => 2 * ((i % 64) + 0.5) + Math.floor(i / 64) + 0.5),
      64,
      48,
    );
    const half = halve(slope);
    for (let y = 2; y < 22; y++) {
      for (let x = 2; x < 30; x++) {
        const wanted = 2 * (2 * (x + 0.5)) + 2 * (y + 0.5);
        expect(Math.abs(half.data[y * 32 + x] - wanted)).toBeLessThanOrEqual(1);
      }
    }
  });

  it('keeps the mean, and rounds odd sizes up', () => {
    const plane = noise(101, 67);
    const half = halve(plane);
    expect([half.width, half.height]).toEqual([51, 34]);
    expect(Math.abs(mean(half) - mean(plane))).toBeLessThan(2);
  });

  it('computes by tiles what it computes as a whole', () => {
    const plane = noise(300, 210);
    const whole = halve(halve(plane));
    const pyramid = new Pyramid(plane, 3);
    pyramid.need(2, 120, 80, 180, 130);
    const level = pyramid.levels[2];
    for (let y = 20; y < 32; y++)
      for (let x = 30; x < 45; x++)
        expect(level.data[y * level.stride + x]).toBe(whole.data[y * whole.stride + x]);
    expect([...halvedPlane(plane, 2).data]).toEqual([...whole.data]);
    expect(halvedPlane(plane, 0)).toBe(plane);
  });

  it('takes over an older frame’s memory without its picture', () => {
    const before = new Pyramid(noise(200, 160), 3);
    before.need(2, 0, 0, 200, 160);
    const plane = noise(200, 160);
    const after = new Pyramid(plane, 3, before);
    expect(after.levels[1].data).toBe(before.levels[1].data);
    after.need(2, 0, 0, 200, 160);
    expect([...after.levels[2].data]).toEqual([...halve(halve(plane)).data]);
  });

  it('shows the full size through the tracker’s eye', () => {
    const plane = noise(90, 70);
    const soft = new Pyramid(plane, 2, undefined, { ...PLAIN_EYE, soften: 1.5 });
    soft.need(1, 0, 0, 90, 70);
    const spread = ({ data }: Plane) => {
      const m = data.reduce((a, b) => a + b, 0) / data.length;
      return data.reduce((a, b) => a + (b - m) ** 2, 0) / data.length;
    };
    expect(spread(soft.levels[0])).toBeLessThan(0.4 * spread(plane));
  });

  it('makes no level under eight samples', () => {
    expect(new Pyramid(noise(40, 40), 9).levels.map((l) => l.width)).toEqual([40, 20, 10]);
  });
});
