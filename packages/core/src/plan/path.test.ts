import fc from 'fast-check';
import { neededZoom } from '../framing/framing.js';
import { apply, IDENTITY, invert, multiply, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity, NO_MOTION, type SimilarityParts } from '../geometry/similarity.js';
import { energyAbove } from '../measure/spectrum.js';
import { randomNumbers } from '../testing/footage.js';
import { PLAIN_GOAL } from '../testing/goal.js';
import { asSpots, farthest, shakes, trackOf } from '../testing/motions.js';
import { gentle, stateAt, type GoalSettings, type Stage } from './goals.js';
import { homographyMotion, motionMatrix, type Motion } from '../solve/motion.js';
import { pathFor } from './path.js';
import { solveMotion } from '../solve/solve-motion.js';

const SIZE = { width: 1280, height: 720 };
const FPS = 30;
const stageOf = (frames: number): Stage => ({
  size: SIZE,
  window: SIZE,
  shift: { shiftX: 0, shiftY: 0 },
  from: 0,
  to: frames - 1,
  fps: FPS,
});

/** A motion of which the truth is known: nothing is solved. */
function motionOf(parts: readonly SimilarityParts[]): Motion {
  return {
    model: 'similarity',
    ref: 0,
    pivot: { x: 640, y: 360 },
    pixelAspect: 1,
    parts,
    support: parts.map(() => 'full'),
    byId: {},
    residual: new Float64Array(parts.length),
  };
}

/** A pan of 900 px that sets off and comes to rest, walked: steps at 2.1 Hz, sway at half of that. */
function walkingPan(frames: number): { meant: SimilarityParts[]; shaken: SimilarityParts[] } {
  const random = randomNumbers(7);
  const phases = Array.from({ length: 8 }, () => 2 * Math.PI * random());
  const wave = (k: number, hertz: number, f: number) => Math.sin((2 * Math.PI * hertz * f) / FPS + phases[k]);
  const meant = Array.from({ length: frames }, (_, f) => ({
    ...NO_MOTION,
    x: -900 * gentle((f / frames - 0.1) / 0.8),
    logScale: 0.02 * (f / frames),
  }));
  const shaken = meant.map((m, f) => ({
    x: m.x + 6 * wave(0, 1.05, f) + 3 * wave(1, 3.3, f),
    y: m.y + 7 * wave(2, 2.1, f) + 2 * wave(3, 5.1, f),
    rotation: 0.007 * wave(4, 1.05, f) + 0.002 * wave(5, 4.2, f),
    logScale: m.logScale + 0.003 * wave(6, 2.1, f),
  }));
  return { meant, shaken };
}

const goal = (change: Partial<GoalSettings>): GoalSettings => ({ ...PLAIN_GOAL, ...change });
const calm = (seconds: number, change: Partial<GoalSettings['calm']> = {}): GoalSettings =>
  goal({
    goal: 'calm',
    calm: {
      ...PLAIN_GOAL.calm,
      smoothing: { x: seconds, y: seconds, rotation: seconds, scale: seconds },
      ...change,
    },
  });
const column = (parts: readonly SimilarityParts[], key: keyof SimilarityParts) => parts.map((p) => p[key]);

describe('Still', () => {
  const truth = shakes(30, 12);
  const tracks = [trackOf(truth, 300, 200), trackOf(truth, 900, 500)];
  const motion = solveMotion({ frames: 30, ref: 7, spots: asSpots(tracks) })!;

  it('steadied, then given back, is the identity to a millionth of a pixel', () => {
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    const amounts = fc.record({ x: share, y: share, rotation: share, scale: share });
    fc.assert(
      fc.property(fc.nat(29), amounts, (i, a) => {
        const { corrections } = pathFor(motion, goal({ amounts: a }), stageOf(30));
        expect(farthest(multiply(invert(corrections[i]), corrections[i]), IDENTITY)).toBeLessThan(1e-6);
      }),
    );
  });

  it('in full is the inverse of the motion, at nothing the picture as shot', () => {
    const full = pathFor(motion, PLAIN_GOAL, stageOf(30));
    const none = pathFor(motion, goal({ amounts: { x: 0, y: 0, rotation: 0, scale: 0 } }), stageOf(30));
    for (let i = 0; i < 30; i++) {
      expect(farthest(multiply(full.corrections[i], motionMatrix(motion, i)), IDENTITY)).toBeLessThan(1e-6);
      expect(farthest(none.corrections[i], IDENTITY)).toBeLessThan(1e-9);
    }
  });

  it('leaves of each component what its amount does not take out', () => {
    const { kept } = pathFor(
      motion,
      goal({ amounts: { x: 1, y: 0.25, rotation: 0, scale: 0.5 } }),
      stageOf(30),
    );
    kept.forEach((l, i) => {
      const m = motion.parts[i];
      expect(l.x).toBeCloseTo(0, 9);
      expect(l.y).toBeCloseTo(0.75 * m.y, 9);
      expect(l.rotation).toBeCloseTo(m.rotation, 12);
      expect(l.logScale).toBeCloseTo(0.5 * m.logScale, 12);
    });
  });

  it('to the average pose moves every frame as little as possible on average', () => {
    const { corrections, kept } = pathFor(motion, goal({ pose: 'average' }), stageOf(30));
    const mean = column(motion.parts, 'x').reduce((a, b) => a + b, 0) / 30;
    expect(kept[3].x).toBeCloseTo(mean, 9);
    expect(new Set(kept.map((l) => l.y.toFixed(9))).size).toBe(1);
    expect(farthest(corrections[7], IDENTITY)).toBeGreaterThan(1);
  });
});

describe('Calm', () => {
  const frames = 240;
  const { meant, shaken } = walkingPan(frames);
  const motion = motionOf(shaken);

  it('by the Gaussian takes out the shake and keeps the pan, to the ends of the range', () => {
    const { kept } = pathFor(motion, calm(1), stageOf(frames));
    for (const key of ['x', 'y', 'rotation', 'logScale'] as const) {
      const off = (parts: readonly SimilarityParts[]) => parts.map((p, f) => p[key] - meant[f][key]);
      const gone = 1 - energyAbove(off(kept), FPS, 1) / energyAbove(off(shaken), FPS, 1);
      expect(gone).toBeGreaterThan(0.97);
    }
    kept.forEach((l, f) => expect(Math.abs(l.x - meant[f].x)).toBeLessThan(0.02 * 900));
    expect(Math.max(...column(kept, 'x'))).toBeLessThan(6);
    expect(Math.min(...column(kept, 'x'))).toBeGreaterThan(-906);
  });

  it('leaves a straight course alone whatever the smoothing, longer than the shot too', () => {
    const straight = Array.from({ length: 40 }, (_, f) => ({ ...NO_MOTION, x: 5 * f, y: -2 * f }));
    for (const seconds of [0, 0.5, 60]) {
      const { corrections } = pathFor(motionOf(straight), calm(seconds), stageOf(40));
      corrections.forEach((s) => expect(farthest(s, IDENTITY)).toBeLessThan(1e-6));
    }
  });

  it('is defined for a range of one frame and of two', () => {
    for (const to of [0, 1]) {
      for (const method of ['gaussian', 'optimal'] as const) {
        const { corrections, kept } = pathFor(motion, calm(1, { method }), { ...stageOf(frames), to });
        if (method === 'gaussian' || to === 0) expect(farthest(corrections[0], IDENTITY)).toBeLessThan(1e-6);
        else expect(Math.abs(kept[1].y - kept[0].y)).toBeLessThan(Math.abs(shaken[1].y - shaken[0].y));
      }
    }
  });

  it('along the optimal path keeps the zoom limit on every frame', () => {
    for (const maxZoom of [1.04, 1.05, 1.12]) {
      const { corrections, kept } = pathFor(motion, calm(1, { method: 'optimal', maxZoom }), stageOf(frames));
      const needed = corrections.map((s) => neededZoom(s, { shiftX: 0, shiftY: 0 }, SIZE));
      expect(Math.max(...needed)).toBeLessThanOrEqual(maxZoom * (1 + 1e-9));
      // Some frame makes use of the room that there is, if the meant course needs it.
      if (maxZoom < 1.06) expect(Math.max(...needed)).toBeGreaterThan(1 + 0.95 * (maxZoom - 1));
      const pan = kept.map((l, f) => Math.hypot(l.x - meant[f].x, l.y - meant[f].y));
      expect(Math.max(...pan)).toBeLessThan(0.025 * 900);
      const off = kept.map((l, f) => l.y - meant[f].y);
      expect(energyAbove(off, FPS, 1) / energyAbove(column(shaken, 'y'), FPS, 1)).toBeLessThan(0.03);
    }
  });

  it('without any room leaves the picture as shot', () => {
    const { corrections } = pathFor(motion, calm(1, { method: 'optimal', maxZoom: 1 }), stageOf(frames));
    corrections.forEach((s) => expect(farthest(s, IDENTITY)).toBeLessThan(1e-6));
  });

  it('holds the difference beyond the range, so that nothing jumps at its ends', () => {
    const { corrections } = pathFor(motion, calm(1), { ...stageOf(frames), from: 50, to: 150 });
    for (const [a, b] of [
      [49, 50],
      [150, 151],
    ]) {
      const place = (f: number) => multiply(corrections[f], composeSimilarity(shaken[f], motion.pivot));
      const shot = farthest(
        composeSimilarity(shaken[a], motion.pivot),
        composeSimilarity(shaken[b], motion.pivot),
      );
      expect(farthest(place(a), place(b))).toBeLessThan(shot * 1.1 + 0.5);
    }
  });
});

describe('Lock', () => {
  const frames = 120;
  const { shaken } = walkingPan(frames);
  const motion = motionOf(shaken);
  const lock = (change: Partial<GoalSettings['lock']>): GoalSettings =>
    goal({ goal: 'lock', lock: { ...PLAIN_GOAL.lock, ...change } });

  it('holds the subject where it was, in the middle, or where it is put', () => {
    for (const [change, x, y] of [
      [{}, 640, 360],
      [{ place: 'middle' as const }, 640, 360],
      [{ place: 'given' as const, x: 300, y: 500 }, 300, 500],
    ] as const) {
      const { kept } = pathFor(motion, lock(change), stageOf(frames));
      kept.forEach((l) => {
        expect(motion.pivot.x + l.x).toBeCloseTo(x, 9);
        expect(motion.pivot.y + l.y).toBeCloseTo(y, 9);
      });
    }
  });

  it('lets the subject float within the tolerance, and without its shake', () => {
    const { kept } = pathFor(motion, lock({ tolerance: 40 }), stageOf(frames));
    const far = kept.map((l) => Math.hypot(l.x, l.y));
    expect(Math.max(...far)).toBeLessThan(40 + 1e-9);
    expect(Math.max(...far)).toBeGreaterThan(30);
    const quick = (parts: readonly SimilarityParts[]) => energyAbove(column(parts, 'y'), FPS, 1);
    expect(quick(kept)).toBeLessThan(0.01 * quick(shaken));
  });

  it('sets in and lets go without a jerk', () => {
    const { corrections, kept } = pathFor(motion, lock({ easeIn: 1, easeOut: 1 }), stageOf(frames));
    expect(farthest(corrections[0], IDENTITY)).toBeLessThan(1e-9);
    expect(farthest(corrections[frames - 1], IDENTITY)).toBeLessThan(1e-6);
    expect(kept[60].x).toBeCloseTo(0, 9);
    const difference = kept.map((l, f) => l.x - shaken[f].x);
    const jerk = difference.map((d, f) =>
      Math.abs(d - 2 * (difference[f - 1] ?? d) + (difference[f - 2] ?? d)),
    );
    const own = column(shaken, 'x').map((d, f, all) =>
      Math.abs(d - 2 * (all[f - 1] ?? d) + (all[f - 2] ?? d)),
    );
    expect(Math.max(...jerk.slice(2, 30))).toBeLessThan(2 * Math.max(...own.slice(2)));
  });
});

describe('keyframes', () => {
  const keys = [
    { frame: 10, goal: 'lock', amounts: { x: 1, y: 1, rotation: 1, scale: 1 }, easing: 'hold' },
    { frame: 20, goal: 'lock', amounts: { x: 1, y: 1, rotation: 1, scale: 1 }, easing: 'linear' },
    { frame: 30, goal: 'calm', amounts: { x: 0, y: 0.5, rotation: 0, scale: 0 }, easing: 'smooth' },
  ] as const;
  const keyed = goal({ keys });

  it('hold, then pass over into the next', () => {
    expect(stateAt(keyed, 0)).toMatchObject({ goal: 'lock', share: 0, amounts: { x: 1 } });
    expect(stateAt(keyed, 19)).toMatchObject({ goal: 'lock', share: 0, amounts: { x: 1 } });
    expect(stateAt(keyed, 25)).toMatchObject({
      goal: 'lock',
      next: 'calm',
      share: 0.5,
      amounts: { x: 0.5, y: 0.75 },
    });
    expect(stateAt(keyed, 99)).toMatchObject({ goal: 'calm', share: 0, amounts: { x: 0, y: 0.5 } });
  });

  it('mix the wanted motions of two goals between them', () => {
    const { shaken } = walkingPan(60);
    const full = { x: 1, y: 1, rotation: 1, scale: 1 };
    const mixed = goal({
      keys: [
        { frame: 0, goal: 'still', amounts: full, easing: 'linear' },
        { frame: 40, goal: 'calm', amounts: full, easing: 'linear' },
      ],
    });
    const motion = motionOf(shaken);
    const path = pathFor(motion, mixed, stageOf(60));
    const still = pathFor(motion, PLAIN_GOAL, stageOf(60));
    const smooth = pathFor(motion, calm(1), stageOf(60));
    expect(path.kept[0].x).toBeCloseTo(still.kept[0].x, 9);
    expect(path.kept[20].x).toBeCloseTo((still.kept[20].x + smooth.kept[20].x) / 2, 9);
    expect(path.kept[50].x).toBeCloseTo(smooth.kept[50].x, 9);
  });
});

describe('a motion that is a homography', () => {
  const matrices = Array.from({ length: 30 }, (_, f): Matrix3 => {
    const t = Math.sin(f / 4);
    const askew: Matrix3 = [1 + 0.01 * t, 0.02 * t, 5 * t, -0.015 * t, 1, 3 * t, 2e-5 * t, -1e-5 * t, 1];
    return f === 0 ? [1, 0, 0, 0, 1, 0, 0, 0, 1] : askew;
  });
  const motion = homographyMotion(matrices, {
    ...{ ref: 0, pivot: { x: 640, y: 360 }, pixelAspect: 1, byId: {} },
    ...{ support: matrices.map(() => 'full' as const), residual: new Float64Array(30) },
  });
  const stage = {
    ...{ size: { width: 1280, height: 720 }, window: { width: 1280, height: 720 }, fps: 30, from: 0, to: 29 },
    shift: { shiftX: 0, shiftY: 0 },
  };

  it('is taken out exactly by Still: every corner stands where it stood on the reference frame', () => {
    const { corrections } = pathFor(motion, PLAIN_GOAL, stage);
    corrections.forEach((s, f) => expect(farthest(multiply(s, matrices[f]), matrices[0])).toBeLessThan(1e-6));
  });

  it('has the parts of the similarity that it is nearest to about the pivot', () => {
    motion.parts.forEach((parts, f) => {
      const [a, b] = [apply(matrices[f], 640, 360), apply(composeSimilarity(parts, motion.pivot), 640, 360)];
      expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeLessThan(1e-9);
    });
  });
});

it('on either side of a cut that was set by hand the path is what it would be alone', () => {
  const { shaken } = walkingPan(200);
  const whole = pathFor(motionOf(shaken), calm(1), { ...stageOf(200), cuts: [90, 500] });
  const [first, second] = [
    pathFor(motionOf(shaken), calm(1), { ...stageOf(200), to: 89 }),
    pathFor(motionOf(shaken), calm(1), { ...stageOf(200), from: 90 }),
  ];
  expect(whole.wanted.slice(0, 90)).toEqual(first.wanted.slice(0, 90));
  expect(whole.wanted.slice(90)).toEqual(second.wanted.slice(90));
  const without = pathFor(motionOf(shaken), calm(1), stageOf(200));
  expect(Math.abs(without.wanted[90].x - whole.wanted[90].x)).toBeGreaterThan(1);
});
