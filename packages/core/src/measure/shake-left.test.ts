import { apply, IDENTITY, invert } from '../geometry/matrix.js';
import { NO_MOTION } from '../geometry/similarity.js';
import { farthest, shakes, trackOf } from '../testing/motions.js';
import { withoutSamples } from '../track/measured.js';
import { withSamples } from '../track/track.js';
import { measureShakeLeft, partsRms } from './shake-left.js';

const FRAMES = 30;
const truth = shakes(FRAMES, 3);
const rest = [
  { x: 300, y: 200 },
  { x: 900, y: 500 },
  { x: 500, y: 600 },
];
const held = { pivot: { x: 640, y: 360 }, pixelAspect: 1 };
const wanted = truth.map(() => NO_MOTION);
const tracks = rest.map((r) => trackOf(truth, r.x, r.y));
const resting = (of = tracks) => of.map((track, i) => ({ rest: rest[i], track }));

describe('what is left', () => {
  it('is nothing after the inverse of the motion, and the shake as shot', () => {
    const left = measureShakeLeft(held, resting(), { wanted, corrections: truth.map(invert) }, 0, FRAMES - 1);
    expect(left.after).toBeLessThan(1e-9);
    expect(left.before).toBeGreaterThan(8);
    expect(left.rmsAfter.x).toBeLessThan(1e-9);
    expect(farthest(truth[4], IDENTITY)).toBeGreaterThan(1);
    const spread = (key: 'x' | 'rotation') => partsRms(left.partsBefore)[key];
    expect(spread('x')).toBeGreaterThan(5);
    expect(spread('rotation')).toBeGreaterThan(0.012);
  });

  it('is measured on the samples, so that a correction of something else does not hide it', () => {
    const corrections = truth.map(() => IDENTITY);
    const left = measureShakeLeft(held, resting(), { wanted, corrections }, 0, FRAMES - 1);
    expect(left.after).toBeCloseTo(left.before, 9);
  });

  it('as shot is the distance from the reference frame where all is to stand as there, whenever a spot is first seen', () => {
    const corrections = truth.map(invert);
    const late = tracks.map((t, i) => (i === 2 ? withoutSamples(t, 0, 11) : t));
    const { beforeByFrame } = measureShakeLeft(held, resting(late), { wanted, corrections }, 0, FRAMES - 1);
    beforeByFrame.forEach((off, f) => {
      const seen = rest.slice(0, f > 11 ? 3 : 2).map((r) => {
        const p = apply(truth[f], r.x, r.y);
        return (p.x - r.x) ** 2 + (p.y - r.y) ** 2;
      });
      expect(off).toBeCloseTo(Math.sqrt(seen.reduce((a, b) => a + b, 0) / seen.length), 6);
    });
    // Against a course there is no such place: it is told about each spot's mean.
    const moved = wanted.map((parts, f) => ({ ...parts, x: f }));
    const left = measureShakeLeft(held, resting(), { wanted: moved, corrections }, 0, FRAMES - 1);
    expect(left.beforeByFrame[0]).toBeGreaterThan(1);
  });

  it('does not take what was coasted for evidence', () => {
    const guess = { frame: 9, x: 900, y: 900, confidence: 0.2, state: 'coasted' as const };
    const corrections = truth.map(invert);
    const guessed = [withSamples(tracks[0], [guess]), ...tracks.slice(1)];
    expect(
      measureShakeLeft(held, resting(guessed), { wanted, corrections }, 0, FRAMES - 1).after,
    ).toBeLessThan(1e-9);
    const seen = [withSamples(tracks[0], [{ ...guess, state: 'tracked' }]), ...tracks.slice(1)];
    expect(
      measureShakeLeft(held, resting(seen), { wanted, corrections }, 0, FRAMES - 1).after,
    ).toBeGreaterThan(50);
  });

  it('leaves frames without a sample open, and a range of one frame at nothing', () => {
    const late = tracks.map((t) => ({ ...t, start: 5 }));
    const left = measureShakeLeft(held, resting(late), { wanted, corrections: truth.map(invert) }, 0, 9);
    expect(Number.isNaN(left.beforeByFrame[2])).toBe(true);
    expect(left.partsBefore[2]).toBeNull();
    const one = measureShakeLeft(held, resting(), { wanted, corrections: truth.map(invert) }, 4, 4);
    expect([one.before, one.after]).toEqual([0, 0]);
  });
});
