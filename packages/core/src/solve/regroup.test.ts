import { heldMotion } from '../plan/held-motion.js';
import { farthest, relativeTo, shakes } from '../testing/motions.js';
import { gridOfPlaces, sceneTracks } from '../testing/scene.js';
import { analyse } from './analysed.js';
import { motionMatrix } from './motion.js';
import { regrouped } from './regroup.js';

const SIZE = { width: 1280, height: 720, pixelAspect: 1 };
const FRAMES = 40;
const [wall, board, cart] = [5, 6, 7].map((seed) => relativeTo(shakes(FRAMES, seed), 0));
const inside = (x0: number, x1: number) => (p: { x: number; y: number }) =>
  p.x > x0 && p.x < x1 && p.y > 220 && p.y < 600;
const scene = analyse(
  sceneTracks(
    [
      {
        motion: wall,
        places: gridOfPlaces([0, 0, 1280, 720], 16, 9, (p) => inside(200, 560)(p) || inside(700, 1100)(p)),
      },
      { motion: board, places: gridOfPlaces([230, 250, 530, 570], 6, 6) },
      { motion: cart, places: gridOfPlaces([730, 250, 1070, 570], 6, 6) },
    ],
    { noise: 0.05 },
  ),
  SIZE,
);
const box = (x0: number, x1: number) =>
  [
    [x0, 240],
    [x1, 240],
    [x1, 580],
    [x0, 580],
  ] as const;
const onMover = (of: typeof scene, m: number) => of.moverOf.filter((k) => k === m).length;
const far = (of: typeof scene, m: number, truth: typeof wall) =>
  Math.max(...truth.map((t, f) => farthest(motionMatrix(of.motions[m]!, f), t)));

describe('regrouping', () => {
  it('is nothing without a word, and kept as long as the words are the same', () => {
    expect(regrouped(scene, [])).toBe(scene);
    const word = { frame: 0, shape: box(225, 535), to: 'scene-1' };
    expect(regrouped(scene, [word])).toBe(regrouped(scene, [{ ...word }]));
  });

  it('merges: what is drawn round goes with another, whose share grows by it', () => {
    const there = scene.moverOf.find((m, k) => scene.tracks.x[scene.tracks.first[k]] > 240 && m > 0)!;
    const other = 3 - there;
    const merged = regrouped(scene, [{ frame: 0, shape: box(225, 535), to: scene.movers[other].id }]);
    expect(onMover(merged, other)).toBe(72);
    expect(onMover(merged, there)).toBe(0);
    expect(merged.movers[other].share).toBeCloseTo(scene.movers[1].share + scene.movers[2].share, 2);
    expect(merged.movers[there].share).toBe(0);
    expect(merged.motions[there]).toBeNull();
    expect(merged.motions[0]).toBe(scene.motions[0]);
  });

  it('splits: what is drawn round becomes a mover of its own, with its own motion, which can be held', () => {
    const lumped = regrouped(scene, [{ frame: 0, shape: box(725, 1075), to: 'scene-1' }]);
    expect(lumped.movers.length).toBe(3);
    const words = [
      { frame: 0, shape: box(725, 1075), to: 'scene-1' },
      { frame: 0, shape: box(725, 1075), to: 'drawn-1' },
    ];
    const split = regrouped(scene, words);
    expect(split.movers[3]).toMatchObject({ id: 'drawn-1', name: 'mover 4', frames: FRAMES });
    expect(onMover(split, 3)).toBe(36);
    expect(far(split, 3, cart)).toBeLessThan(0.3);
    expect(far(split, 0, wall)).toBeLessThan(0.15);
    const held = heldMotion({ frames: FRAMES, ref: 0, spots: [], regroups: words }, scene, 'drawn-1')!;
    expect(held.mover).toBe('drawn-1');
    expect(Math.max(...cart.map((t, f) => farthest(motionMatrix(held.motion, f), t)))).toBeLessThan(0.3);
  });
});
