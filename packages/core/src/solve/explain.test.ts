import { translation, type Matrix3 } from '../geometry/matrix.js';
import { randomNumbers } from '../testing/footage.js';
import { asSpots, noisy, trackOf } from '../testing/motions.js';
import type { Track } from '../track/track.js';
import { explainResiduals, type OddSpot } from './explain.js';
import { solveMotion } from './solve-motion.js';

const FRAMES = 60;
/** A camera that sways across: things that are nearer sway more. */
const sway = (times: number): Matrix3[] =>
  Array.from({ length: FRAMES }, (_, f) =>
    translation(times * 12 * Math.sin(f / 6), times * 5 * Math.cos(f / 9)),
  );
const random = randomNumbers(4);
const seen = (motion: readonly Matrix3[], x: number, y: number) => noisy(trackOf(motion, x, y), 0.05, random);
const house = [
  [200, 150],
  [600, 160],
  [900, 300],
  [400, 420],
].map(([x, y]) => seen(sway(1), x, y));

function explained(more: readonly (readonly [string, Track])[], mover = 'station'): OddSpot[] {
  const tracks = [...house, ...more.map(([, t]) => t)];
  const names = [...house.map((_, i) => `A${i + 1}`), ...more.map(([name]) => name)];
  const movers = [...house.map(() => mover), ...more.map(() => '')];
  const spots = asSpots(tracks, { names, movers });
  return explainResiduals(solveMotion({ frames: FRAMES, ref: 0, spots })!, spots);
}

describe('what the solve does not explain', () => {
  it('is nothing where all spots are on one thing', () => {
    expect(explained([['door', seen(sway(1), 500, 250)]])).toEqual([]);
  });

  it('is said in words: nearer, with by how much and against what', () => {
    const [odd, ...rest] = explained([['railing', seen(sway(1.4), 700, 600)]]);
    expect(rest).toEqual([]);
    expect(odd).toMatchObject({ spot: '4', why: 'nearer' });
    expect(odd.sentence).toMatch(/^railing still moves \d\.\d px against station: it is nearer\.$/);
    // 0.4 of the sway is left: 4.8 px across and 2 px down at the most.
    expect(odd.rms).toBeGreaterThan(2.5);
    expect(odd.rms).toBeLessThan(5);
  });

  it('is farther away where it moves less', () => {
    expect(explained([['ridge', seen(sway(0.5), 700, 80)]])[0]).toMatchObject({ spot: '4', why: 'farther' });
  });

  it('is a slip where the offset changes at once, and says when', () => {
    const good = seen(sway(1), 700, 500);
    const x = good.values.x.map((v, f) => (f >= 33 ? v + 6 : v));
    const slipped = { ...good, values: { ...good.values, x } };
    const [odd] = explained([['sign', slipped]]);
    expect(odd).toMatchObject({ spot: '4', why: 'slipped' });
    expect(odd.sentence).toContain('6.0 px at frame 33');
  });

  it('is a course of its own where nothing explains it, and the worst frame is told', () => {
    const own = trackOf(
      Array.from({ length: FRAMES }, (_, f) => translation(3 * f * Math.sin(f), 40 * Math.cos(f / 2))),
      640,
      360,
    );
    const [odd] = explained([['gondola', own]]);
    expect(odd.why).toBe('on its own');
    expect(odd.worst).toBeGreaterThan(40);
  });

  it('names the oddest first, and judges no three', () => {
    const odd = explained([
      ['fence', seen(sway(1.3), 300, 640)],
      ['post', seen(sway(2.5), 800, 640)],
    ]);
    expect(odd.map((o) => o.spot)).toEqual(['5', '4']);
    const spots = asSpots([house[0], house[1], seen(sway(3), 300, 600)]);
    const motion = solveMotion({ frames: FRAMES, ref: 0, spots })!;
    expect(explainResiduals(motion, spots)).toEqual([]);
  });
});
