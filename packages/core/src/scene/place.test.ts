import { randomNumbers } from '../numbers.js';
import { tracksInDepth, type Pose, type ScenePoint3 } from '../testing/scene-in-depth.js';
import { moversOf } from './movers.js';

const SIZE = { width: 960, height: 540 };
const [FOCAL, FRAMES] = [900, 120];

/** A river bank: water and boats in front, a tower that the camera is aimed at as it goes sideways, a far shore. */
function bank(seed: number): { points: ScenePoint3[]; poses: Pose[]; tower: (i: number) => boolean } {
  const random = randomNumbers(seed);
  const within = (a: number, b: number) => a + (b - a) * random();
  const points: ScenePoint3[] = [];
  const layer = (n: number, z: number, deep: number, [x0, x1]: number[], [y0, y1]: number[]) => {
    for (let i = 0; i < n; i++) points.push({ x: within(x0, x1), y: within(y0, y1), z: z + within(0, deep) });
  };
  layer(140, 80, 4, [-60, 70], [-14, -2]);
  const first = points.length;
  layer(60, 40, 0.5, [-1.6, 1.6], [-9, 2]);
  const last = points.length;
  layer(160, 20, 1, [-16, 22], [1, 3]);
  layer(160, 12, 1, [-12, 18], [1.3, 2.6]);
  layer(160, 8, 0.6, [-9, 15], [1.3, 2.2]);
  layer(120, 6, 0.4, [-7, 13], [1.2, 1.8]);
  const waves = Array.from({ length: 6 }, () => [within(0.02, 0.2), within(0, 6.28), within(0, 6.28)]);
  const shake = (t: number, k: 1 | 2) =>
    waves.reduce((s, w) => s + 0.0008 * Math.sin(6.28 * w[0] * t + w[k]), 0);
  const poses = Array.from({ length: FRAMES }, (_, t): Pose => {
    const x = (4 * t) / FRAMES;
    const turned = {
      pan: Math.atan2(-x, 40) + shake(t, 1),
      tilt: shake(t, 2),
      roll: 0.004 * Math.sin(t / 7),
    };
    return { x, y: 0.03 * Math.sin(t / 9), z: 0, ...turned };
  });
  return { points, poses, tower: (i) => i >= first && i < last };
}

describe('a place that stands still, seen by a camera that travels', () => {
  it.each([3, 4])('is one thing at several depths, held where the camera is aimed (%i)', (seed) => {
    const { points, poses, tower } = bank(seed);
    const { tracks, of } = tracksInDepth(points, poses, FOCAL, SIZE, { seed });
    const { movers, moverOf } = moversOf(tracks, SIZE);
    const held = of.flatMap((p, k) => (moverOf[k] === 0 ? [p] : []));
    expect(held.filter(tower).length).toBeGreaterThan(0.95 * held.length);
    expect(held.filter(tower).length).toBeGreaterThan(57);
    // Nothing here goes by itself.
    expect(movers.filter((m) => !m.place).length).toBeLessThan(2);
    expect(movers[0]).toMatchObject({ name: 'place aimed at' });
    expect(movers[0].place!.slide).toBeLessThan(1);
    expect(movers[0].place!.others).toBeGreaterThan(10);
    expect(movers.length).toBeLessThan(8);
    expect(movers.some((m) => m.name.startsWith('near, '))).toBe(true);
    const far = movers.findIndex((m) => m.name.startsWith('far, '));
    expect(of.filter((_, k) => moverOf[k] === far).every((p) => points[p].z > 40)).toBe(true);
  });

  it('leaves out what goes by itself, however the camera follows it', () => {
    const { points, poses } = bank(5);
    const first = points.length;
    const random = randomNumbers(9);
    // A boat that keeps to the middle of the picture while it bobs.
    for (let i = 0; i < 70; i++) points.push({ x: 4 * random() - 2, y: -4 + 2 * random(), z: 25 });
    const moves = (p: ScenePoint3, i: number, t: number) =>
      i < first
        ? p
        : {
            ...p,
            x: p.x + (4 * t * (40 - 25)) / (40 * FRAMES) + 0.5 * Math.sin(t / 8),
            y: p.y + 0.4 * Math.cos(t / 11),
          };
    const { tracks, of } = tracksInDepth(points, poses, FOCAL, SIZE, { moves });
    const { movers, moverOf } = moversOf(tracks, SIZE);
    const boat = of.findIndex((p) => p >= first);
    const its = movers[moverOf[boat]];
    expect(its.place).toBeUndefined();
    expect(moverOf[boat]).toBeGreaterThan(0);
  });
});
