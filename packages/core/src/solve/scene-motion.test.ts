import { farthest, relativeTo, shakes } from '../testing/motions.js';
import { differenceOver, gridOfPlaces, sceneTracks } from '../testing/scene.js';
import { analyse } from './analysed.js';
import { motionMatrix } from './motion.js';
import { sceneMotion } from './scene-motion.js';

const SIZE = { width: 1280, height: 720, pixelAspect: 1 };
const FRAMES = 40;
const truth = relativeTo(shakes(FRAMES, 5), 0);
const places = gridOfPlaces([0, 0, 1280, 720], 14, 8);
const matrices = (motion: NonNullable<ReturnType<typeof sceneMotion>>) =>
  motion.parts.map((_, f) => motionMatrix(motion, f));

describe('the motion of a mover', () => {
  it('is far more exact than its tracks', () => {
    const scene = analyse(sceneTracks([{ motion: truth, places }], { noise: 0.2 }), SIZE);
    const motion = sceneMotion(scene, 0, 0, SIZE)!;
    expect(differenceOver(matrices(motion), truth, SIZE)).toBeLessThan(0.09);
    expect(motion.support).toEqual(Array(FRAMES).fill('full'));
    // Two coordinates, each with the tracks' own noise.
    expect(motion.residual[20]).toBeGreaterThan(0.2);
    expect(motion.residual[20]).toBeLessThan(0.36);
  });

  it('is told against any frame', () => {
    const scene = analyse(sceneTracks([{ motion: truth, places }], { noise: 0 }), SIZE);
    const motion = sceneMotion(scene, 0, 17, SIZE)!;
    relativeTo(truth, 17).forEach((m, f) => expect(farthest(motionMatrix(motion, f), m)).toBeLessThan(0.01));
    expect(motion.parts[17].rotation).toBe(0);
  });

  it('of wide pixels is a similarity among square ones', () => {
    const wide = truth.map(
      (m) => [m[0], m[1] / 2, m[2] / 2, m[3] * 2, m[4], m[5], 0, 0, 1] as unknown as typeof m,
    );
    const narrow = places.map(({ x, y }) => ({ x: x / 2, y }));
    const size = { width: 640, height: 720, pixelAspect: 2 };
    const scene = analyse(sceneTracks([{ motion: wide, places: narrow }], { noise: 0 }), size);
    const motion = sceneMotion(scene, 0, 0, size)!;
    expect(differenceOver(matrices(motion), wide, size)).toBeLessThan(0.02);
  });

  it('begins anew in every part between cuts', () => {
    const cut = 25;
    const tracks = sceneTracks(
      [
        { motion: truth, places, seen: [0, cut - 1] },
        { motion: truth, places, seen: [cut, FRAMES - 1] },
      ],
      { cuts: [cut], noise: 0 },
    );
    const motion = sceneMotion(analyse(tracks, SIZE), 0, 3, SIZE)!;
    const expected = relativeTo(truth, 3).map((m, f) => (f < cut ? m : relativeTo(truth, cut)[f]));
    expected.forEach((m, f) => expect(farthest(motionMatrix(motion, f), m)).toBeLessThan(0.01));
  });

  it('is bridged over frames on which nothing of it is seen, and there is none of a scene without tracks', () => {
    const tracks = sceneTracks([{ motion: truth, places }], { noise: 0 });
    // Nothing is seen on frames 15 to 19.
    for (let k = 0; k < places.length; k++)
      tracks.confidence.fill(0, tracks.first[k] + 15, tracks.first[k] + 20);
    const motion = sceneMotion(analyse(tracks, SIZE), 0, 0, SIZE)!;
    expect(motion.support.slice(14, 21)).toEqual(['full', ...Array<string>(5).fill('none'), 'full']);
    for (const f of [14, 20]) expect(farthest(motionMatrix(motion, f), truth[f])).toBeLessThan(0.01);
    for (const f of [15, 17, 19]) expect(Number.isFinite(motion.parts[f].x)).toBe(true);
    tracks.confidence.fill(0);
    expect(analyse(tracks, SIZE)).toMatchObject({ movers: [], motions: [] });
  });
});
