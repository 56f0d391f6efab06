import { translation, type Matrix3 } from '../geometry/matrix.js';
import { randomNumbers } from '../testing/footage.js';
import { noisy, shakes, trackOf } from '../testing/motions.js';
import type { Track } from '../track/track.js';
import { agreeing } from './consensus.js';
import { observe } from './observations.js';

const FRAMES = 50;
const camera = shakes(FRAMES, 2);
const nearer = shakes(FRAMES, 2).map((m): Matrix3 => [
  m[0],
  m[1],
  1.4 * m[2],
  m[3],
  m[4],
  1.4 * m[5],
  0,
  0,
  1,
]);
const random = randomNumbers(8);
const house = (n: number) =>
  Array.from({ length: n }, () => noisy(trackOf(camera, 1280 * random(), 720 * random()), 0.1, random));
const railing = (n: number) =>
  Array.from({ length: n }, (_, i) => noisy(trackOf(nearer, 200 + 400 * i, 650), 0.1, random));
const told = (tracks: readonly Track[]) => {
  const agree = agreeing(observe(tracks, FRAMES, 1));
  return agree && [...agree];
};

describe('the majority of the spots', () => {
  it('is all of them where they are on one thing', () => {
    expect(told(house(7))).toEqual(Array(7).fill(1));
  });

  it('leaves out those that move otherwise, up to nearly half', () => {
    expect(told([...house(4), ...railing(1)])).toEqual([1, 1, 1, 1, 0]);
    expect(told([...house(6), ...railing(3)])).toEqual([1, 1, 1, 1, 1, 1, 0, 0, 0]);
    const own = trackOf(
      camera.map((_, f) => translation(3 * f, 20 * Math.sin(f / 4))),
      400,
      300,
    );
    expect(told([own, ...house(3)])).toEqual([0, 1, 1, 1]);
  });

  it('is not put off by a spot that slips for a while: most of it agrees', () => {
    const [first, ...rest] = house(5);
    const x = first.values.x.map((v, f) => (f > 35 ? v + 9 : v));
    const slipped = { ...first, values: { ...first.values, x } };
    expect(told([slipped, ...rest])).toEqual([1, 1, 1, 1, 1]);
  });

  it('cannot be told of three, nor of spots that are never seen together', () => {
    expect(told(house(3))).toBeNull();
    const apart = [0, 10, 20, 30].map((from) =>
      trackOf(camera, 300 + from, 200, (f) => f >= from && f < from + 10),
    );
    expect(told(apart)).toBeNull();
  });

  it('says nothing against a spot that has nothing in common with it', () => {
    const late = trackOf(camera, 640, 360, (f) => f > 47);
    expect(told([...house(5), late])).toEqual([1, 1, 1, 1, 1, 1]);
  });
});
