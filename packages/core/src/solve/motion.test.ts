import fc from 'fast-check';
import { apply, chain, IDENTITY, invert, multiply, translation, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity, type Components } from '../geometry/similarity.js';
import { measureStill } from '../measure/still.js';
import { normal, randomNumbers } from '../testing/footage.js';
import { EMPTY_TRACK, withSamples, type Track } from '../track/track.js';
import { motionMatrix, solveMotion, stillCorrection } from './motion.js';

const ALL: Components = { x: true, y: true, rotation: true, scale: true };
const CENTRE = { x: 640, y: 360 };

function motions(frames: number, seed: number): Matrix3[] {
  const random = randomNumbers(seed);
  return Array.from({ length: frames }, () =>
    composeSimilarity(
      {
        x: 8 * normal(random),
        y: 6 * normal(random),
        rotation: 0.02 * normal(random),
        logScale: 0.01 * normal(random),
      },
      CENTRE,
    ),
  );
}

function track(motion: readonly Matrix3[], x: number, y: number, present = (_: number) => true): Track {
  return withSamples(
    EMPTY_TRACK,
    motion.flatMap((m, frame) =>
      present(frame) ? [{ frame, ...apply(m, x, y), confidence: 1, state: 'tracked' as const }] : [],
    ),
  );
}

/** Motion relative to a frame: what the solver should find. */
function relative(motion: readonly Matrix3[], ref: number): Matrix3[] {
  const back = invert(motion[ref]);
  return motion.map((m) => multiply(m, back));
}

function worst(a: Matrix3, b: Matrix3): number {
  const corners = [0, 1280].flatMap((x) => [0, 720].map((y) => [x, y] as const));
  return Math.max(
    ...corners.map(([x, y]) => {
      const p = apply(a, x, y);
      const q = apply(b, x, y);
      return Math.hypot(p.x - q.x, p.y - q.y);
    }),
  );
}

describe('solving the motion', () => {
  it('recovers a similarity exactly from two spots, whatever the reference frame', () => {
    const truth = motions(30, 5);
    const tracks = [track(truth, 300, 200), track(truth, 900, 500)];
    for (const ref of [0, 13, 29]) {
      const motion = solveMotion({ frames: 30, ref, tracks })!;
      relative(truth, ref).forEach((m, i) =>
        expect(worst(motionMatrix(motion, i, ALL), m)).toBeLessThan(1e-6),
      );
      expect(worst(motionMatrix(motion, ref, ALL), IDENTITY)).toBeLessThan(1e-9);
    }
  });

  it('gives position from one spot', () => {
    const truth = [0, 1, 2, 3].map((i) => translation(3 * i, -2 * i));
    const motion = solveMotion({ frames: 4, ref: 1, tracks: [track(truth, 50, 60)] })!;
    expect(motion.support).toEqual(['position', 'position', 'position', 'position']);
    relative(truth, 1).forEach((m, i) => expect(worst(motionMatrix(motion, i, ALL), m)).toBeLessThan(1e-9));
  });

  it('links spots that come and go, without a jump', () => {
    const truth = motions(60, 6);
    const tracks = [
      track(truth, 300, 200, (f) => f < 40),
      track(truth, 900, 500),
      track(truth, 500, 600, (f) => f >= 25),
    ];
    const motion = solveMotion({ frames: 60, ref: 50, tracks })!;
    relative(truth, 50).forEach((m, i) => expect(worst(motionMatrix(motion, i, ALL), m)).toBeLessThan(1e-5));
  });

  it('keeps the position exact and interpolates the turn where one spot is left', () => {
    const truth = Array.from({ length: 21 }, (_, i) =>
      composeSimilarity({ x: i, y: 0, rotation: 0.001 * i, logScale: 0 }, CENTRE),
    );
    const tracks = [track(truth, 300, 200), track(truth, 900, 500, (f) => f < 8 || f > 12)];
    const motion = solveMotion({ frames: 21, ref: 0, tracks })!;
    expect(motion.support.slice(7, 14)).toEqual([
      'full',
      'position',
      'position',
      'position',
      'position',
      'position',
      'full',
    ]);
    relative(truth, 0).forEach((m, i) => expect(worst(motionMatrix(motion, i, ALL), m)).toBeLessThan(1e-6));
  });

  it('holds the motion where nothing was measured', () => {
    const truth = motions(10, 8);
    const seen = (f: number) => f >= 3 && f <= 6;
    const tracks = [track(truth, 300, 200, seen), track(truth, 900, 500, seen)];
    const motion = solveMotion({ frames: 10, ref: 4, tracks })!;
    expect(motion.support[0]).toBe('none');
    expect(worst(motionMatrix(motion, 0, ALL), motionMatrix(motion, 3, ALL))).toBeLessThan(1e-9);
    expect(worst(motionMatrix(motion, 9, ALL), motionMatrix(motion, 6, ALL))).toBeLessThan(1e-9);
  });

  it('averages noise over many spots', () => {
    const truth = motions(40, 9);
    const random = randomNumbers(3);
    const noisy = (t: Track): Track => ({
      ...t,
      x: t.x.map((v) => v + 0.2 * normal(random)),
      y: t.y.map((v) => v + 0.2 * normal(random)),
    });
    const places = Array.from({ length: 16 }, () => ({ x: 1280 * random(), y: 720 * random() }));
    const motion = solveMotion({
      frames: 40,
      ref: 0,
      tracks: places.map((p) => noisy(track(truth, p.x, p.y))),
    })!;
    const spread = motion.residual.reduce((a, b) => a + b, 0) / 40;
    expect(spread).toBeGreaterThan(0.2);
    expect(spread).toBeLessThan(0.35);
  });

  it('is null without samples', () => {
    expect(solveMotion({ frames: 5, ref: 0, tracks: [EMPTY_TRACK] })).toBeNull();
  });
});

describe('Still', () => {
  it('steadied, then unsteadied, is the identity', () => {
    const truth = motions(20, 10);
    const motion = solveMotion({
      frames: 20,
      ref: 7,
      tracks: [track(truth, 300, 200), track(truth, 900, 500)],
    })!;
    fc.assert(
      fc.property(
        fc.nat(19),
        fc.boolean(),
        fc.boolean(),
        fc.boolean(),
        fc.boolean(),
        (i, x, y, rotation, scale) => {
          const use = { x, y, rotation, scale };
          const both = chain(motionMatrix(motion, i, use), stillCorrection(motion, i, use));
          expect(worst(both, IDENTITY)).toBeLessThan(1e-6);
        },
      ),
    );
  });

  it('leaves out what is switched off', () => {
    const truth = motions(20, 11);
    const tracks = [track(truth, 300, 200), track(truth, 900, 500)];
    const motion = solveMotion({ frames: 20, ref: 0, tracks })!;
    const s = stillCorrection(motion, 9, { ...ALL, rotation: false, scale: false });
    expect([s[0], s[1], s[3], s[4]]).toEqual([1, expect.closeTo(0), expect.closeTo(0), 1]);
    const across = stillCorrection(motion, 9, { x: true, y: false, rotation: false, scale: false });
    expect(across[5]).toBeCloseTo(0);
    expect(Math.abs(across[2])).toBeGreaterThan(0.1);
  });

  it('takes all the shake of what is held, and says so', () => {
    const truth = motions(30, 12);
    const tracks = [track(truth, 300, 200), track(truth, 900, 500)];
    const motion = solveMotion({ frames: 30, ref: 0, tracks })!;
    const measure = measureStill(tracks, (i) => stillCorrection(motion, i, ALL), 0, 29);
    expect(measure.before).toBeGreaterThan(5);
    expect(measure.after).toBeLessThan(1e-6);
    const half = measureStill(tracks, (i) => stillCorrection(motion, i, { ...ALL, x: false }), 0, 29);
    expect(half.after).toBeGreaterThan(4);
    expect(half.after).toBeLessThan(half.before);
  });
});
