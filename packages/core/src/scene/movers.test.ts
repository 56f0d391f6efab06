import { IDENTITY, multiply, translation } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import { gridOfPlaces, sceneTracks } from '../testing/scene.js';
import { commonMotion, distanceFrom } from './common-motion.js';
import { moversOf } from './movers.js';

const SIZE = { width: 960, height: 540 };
const FRAMES = 70;
const hand = Array.from({ length: FRAMES }, (_, t) =>
  composeSimilarity(
    {
      x: 9 * Math.sin(t / 4) + 3 * Math.sin(t),
      y: 6 * Math.sin(t / 5 + 1) - 6 * Math.sin(1),
      rotation: 0.01 * Math.sin(t / 6),
      logScale: 0,
    },
    { x: 480, y: 270 },
  ),
);
const sway = hand.map((m, t) => {
  const s = composeSimilarity(
    { x: 22 * Math.sin(t / 9), y: 0, rotation: 0.03 * Math.sin(t / 9), logScale: 0 },
    { x: 470, y: 420 },
  );
  return multiply(m, s);
});
/** An oval over more than four tenths of the picture. */
const inGuard = ({ x, y }: { x: number; y: number }) => Math.hypot((x - 480) / 300, (y - 300) / 240) < 1;
const wall = gridOfPlaces([0, 0, 960, 540], 18, 10, inGuard);
const guard = gridOfPlaces([180, 60, 780, 540], 14, 11, (p) => !inGuard(p));

describe('a common motion', () => {
  it('is that of the tracks, in spite of some that do not share it', () => {
    const tracks = sceneTracks([
      { motion: hand, places: wall },
      { motion: sway, places: guard.slice(0, 12) },
    ]);
    const all = Array.from({ length: wall.length + 12 }, (_, k) => k);
    const motion = commonMotion(tracks, all, 0, FRAMES - 1);
    expect(distanceFrom(tracks, 0, motion, 8)).toBeLessThan(0.25);
    expect(distanceFrom(tracks, wall.length + 3, motion, 8)).toBeGreaterThan(4);
    expect(distanceFrom(tracks, 0, motion, FRAMES + 5)).toBeNaN();
  });
});

describe('movers', () => {
  it('few features of a wall are what is held before a subject that fills the picture and sways', () => {
    const bare = wall.filter((p) => p.y < 330).filter((_, k) => k % 7 === 0);
    expect(bare.length).toBeLessThan(0.2 * guard.length);
    const tracks = sceneTracks([
      { motion: sway, places: guard },
      { motion: hand, places: bare },
    ]);
    const { movers, moverOf } = moversOf(tracks, SIZE);
    expect(moverOf[guard.length]).toBe(0);
    expect(movers[0].share).toBeLessThan(0.2);
    expect(movers[0].evidence!.slide).toBeLessThan(movers[1].evidence!.slide / 3);
  });

  it('are told apart, the surroundings by where they lie though a subject has more of the texture', () => {
    const tracks = sceneTracks([
      { motion: hand, places: wall },
      { motion: sway, places: guard },
    ]);
    expect(guard.length).toBeGreaterThan(wall.length * 0.9);
    const { movers, moverOf } = moversOf(tracks, SIZE);
    expect(movers.map((m) => m.name)).toEqual(['surroundings', 'mover 2']);
    const right = Array.from(moverOf).filter((m, k) => m === (k < wall.length ? 0 : 1));
    expect(right.length / moverOf.length).toBeGreaterThan(0.98);
    expect(movers[0].rim).toBeGreaterThan(movers[1].rim);
    expect(movers[0].share + movers[1].share).toBeCloseTo(1, 1);
  });

  it('are the same whenever they are looked for', () => {
    const tracks = sceneTracks([
      { motion: hand, places: wall },
      { motion: sway, places: guard },
    ]);
    expect(moversOf(tracks, SIZE)).toEqual(moversOf(tracks, SIZE));
  });

  it('go on through tracks that come and go', () => {
    const pan = hand.map((m, t) => multiply(translation(-7 * t, 0), m));
    const things = Array.from({ length: 7 }, (_, i) => ({
      motion: pan,
      places: gridOfPlaces([60 * i, 0, 60 * i + 900, 540], 10, 6),
      seen: [8 * i, 8 * i + 20] as const,
    }));
    const { movers } = moversOf(sceneTracks(things), SIZE);
    expect(movers).toHaveLength(1);
    expect(movers[0].frames).toBeGreaterThan(FRAMES - 4);
  });

  it('that only pass through are found, and stray tracks are on none', () => {
    const cross = hand.map((m, t) => multiply(m, translation(6 * t, 0)));
    const stray = hand.map((_, t) => translation(40 * Math.sin(t / 3), 25 * Math.cos(t / 2)));
    const tracks = sceneTracks([
      { motion: hand, places: wall },
      { motion: cross, places: gridOfPlaces([200, 200, 330, 300], 4, 3), seen: [10, 50] },
      { motion: stray, places: [{ x: 100, y: 500 }] },
    ]);
    const { movers, moverOf } = moversOf(tracks, SIZE);
    expect(movers).toHaveLength(2);
    expect([...moverOf.slice(wall.length, wall.length + 12)]).toEqual(Array(12).fill(1));
    expect(moverOf[moverOf.length - 1]).toBe(-1);
  });

  it('that are laid over the picture are not taken for the world', () => {
    const title = gridOfPlaces([40, 470, 420, 530], 9, 2);
    const tracks = sceneTracks(
      [
        { motion: hand.map(() => IDENTITY), places: title },
        { motion: hand, places: gridOfPlaces([0, 0, 960, 460], 8, 3) },
      ],
      { noise: 0.03 },
    );
    const { movers, moverOf } = moversOf(tracks, SIZE);
    expect(moverOf[0]).toBe(1);
    expect(movers[1]).toMatchObject({ overlay: true });
    expect(movers[0]).toMatchObject({ name: 'surroundings', overlay: false });
  });

  it('of the parts of a clip are each by themselves, but the surroundings are the surroundings', () => {
    const cut = 40;
    const tracks = sceneTracks(
      [
        { motion: hand, places: wall, seen: [0, cut - 1] },
        { motion: sway, places: wall, seen: [cut, FRAMES - 1] },
      ],
      { cuts: [cut] },
    );
    const { movers } = moversOf(tracks, SIZE);
    expect(movers).toHaveLength(1);
    expect(movers[0].frames).toBe(FRAMES);
  });

  it('are none of a handful of tracks, or of none', () => {
    expect(moversOf(sceneTracks([{ motion: hand, places: wall.slice(0, 4) }]), SIZE).movers).toEqual([]);
    expect(moversOf(sceneTracks([{ motion: hand, places: [] }]), SIZE).movers).toEqual([]);
  });
});
