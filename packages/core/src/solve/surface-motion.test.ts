import { farthestApart, EMPTY_SURFACE_TRACK, withSurfaceSamples } from '../surface/surface-track.js';
import { moveQuad, rectangle, type Quad } from '../geometry/homography.js';
import { apply, multiply, invert, translation, type Matrix3 } from '../geometry/matrix.js';
import { EMPTY_TRACK, withSamples } from '../track/track.js';
import type { SampleState } from '../track/measured.js';
import { motionMatrix } from './motion.js';
import { surfaceMotionOf, surfaceWitnesses, type SolveSurface } from './surface-motion.js';

const base = rectangle(100, 80, 220, 160);
const quad = rectangle(110, 90, 200, 150);
const at = (t: number): Matrix3 => [
  ...([1 + 0.02 * t, -0.01 * t, 2 * t, 0.01 * t, 1 + 0.02 * t, -t] as const),
  ...([0.00004 * t, -0.00002 * t, 1] as const),
];

function surface(
  frames: number,
  state: (t: number) => SampleState | null = () => 'tracked',
  change: Partial<SolveSurface> = {},
  motion: (t: number) => Matrix3 = at,
): SolveSurface {
  const samples = Array.from({ length: frames }, (_, frame) => frame).flatMap((frame) => {
    const s = state(frame);
    return s ? [{ frame, corners: moveQuad(motion(frame), base), confidence: 1, state: s }] : [];
  });
  const track = withSurfaceSamples(EMPTY_SURFACE_TRACK, samples);
  return { id: 's', base, quad, track, perspective: true, ...change };
}

const told = (t: number, ref: number, q: Quad = quad) =>
  moveQuad(multiply(at(t), invert(at(ref))), moveQuad(at(ref), q));

describe('the motion of a surface', () => {
  it('takes its quad from the reference frame to every other', () => {
    const motion = surfaceMotionOf({ frames: 12, ref: 4, surfaces: [surface(12)], spots: [] })!;
    const rest = moveQuad(at(4), quad);
    for (const f of [0, 4, 11]) {
      const there = moveQuad(motionMatrix(motion, f), rest);
      expect(farthestApart(there, told(f, 4))).toBeLessThan(1e-3);
    }
    expect(motionMatrix(motion, 4).map((v) => Math.round(v * 1e9) / 1e9 + 0)).toEqual([
      1, 0, 0, 0, 1, 0, 0, 0, 1,
    ]);
    expect(motion.support.every((s) => s === 'full')).toBe(true);
    // Signs: it grows and turns clockwise on screen.
    expect(motion.parts[11].rotation).toBeGreaterThan(0.02);
    expect(motion.parts[11].logScale).toBeGreaterThan(0.01);
  });

  it('is a similarity where it should not lean', () => {
    const flat = surface(12, undefined, { perspective: false });
    const motion = surfaceMotionOf({ frames: 12, ref: 0, surfaces: [flat], spots: [] })!;
    const m = motionMatrix(motion, 9);
    expect([m[6], m[7]]).toEqual([0, 0]);
    const { x, y } = motion.pivot;
    const middle = apply(m, x, y);
    const truth = apply(at(9), x, y);
    expect(Math.hypot(middle.x - truth.x, middle.y - truth.y)).toBeLessThan(1e-3);
  });

  it('is bridged where it was hidden', () => {
    const hidden = (t: number) => (t >= 4 && t < 8 ? ('coasted' as const) : ('tracked' as const));
    const motion = surfaceMotionOf({ frames: 12, ref: 0, surfaces: [surface(12, hidden)], spots: [] })!;
    expect(motion.support.slice(3, 9)).toEqual(['full', ...Array(4).fill('guessed'), 'full']);
    expect(farthestApart(moveQuad(motionMatrix(motion, 6), quad), told(6, 0))).toBeLessThan(1.5);
  });

  it('is carried on by another surface on the same thing, keeping the offset', () => {
    const first = surface(12, (t) => (t < 6 ? 'tracked' : null));
    const other = surface(12, undefined, { id: 'o' }, (t) => multiply(at(t), translation(40, 10)));
    const moved = { ...other, base: moveQuad(translation(40, 10), base) };
    const motion = surfaceMotionOf({ frames: 12, ref: 0, surfaces: [first, moved], spots: [] })!;
    expect(farthestApart(moveQuad(motionMatrix(motion, 10), quad), told(10, 0))).toBeLessThan(0.01);
    expect(motion.support[10]).toBe('full');
  });

  it('is drawn to spots on it', () => {
    const off = (t: number) => 0.5 * Math.sin(t);
    const drifting = surface(12, undefined, {}, (t) => multiply(translation(off(t), 0), at(t)));
    const spot = (x: number, y: number, id: string) => ({
      id,
      track: withSamples(
        EMPTY_TRACK,
        Array.from({ length: 12 }, (_, frame) => ({
          ...{ frame, ...apply(at(frame), x, y), confidence: 1, state: 'tracked' as const },
        })),
      ),
    });
    const spots = [spot(120, 100, 'a'), spot(200, 150, 'b'), spot(110, 150, 'c')];
    const motion = surfaceMotionOf({ frames: 12, ref: 0, surfaces: [drifting], spots })!;
    for (const f of [2, 5, 11])
      expect(farthestApart(moveQuad(motionMatrix(motion, f), quad), told(f, 0))).toBeLessThan(0.05);
    expect(Object.keys(motion.byId)).toEqual(['a', 'b', 'c']);
    expect(motion.residual[5]).toBeLessThan(0.05);
  });

  it('is none where nothing was measured', () => {
    const empty = surface(0);
    expect(surfaceMotionOf({ frames: 4, ref: 0, surfaces: [empty], spots: [] })).toBeNull();
  });
});

it('its corners are witnesses of what is left', () => {
  const one = surface(12);
  const motion = surfaceMotionOf({ frames: 12, ref: 2, surfaces: [one], spots: [] })!;
  const seen = surfaceWitnesses(one, motion);
  expect(seen).toHaveLength(4);
  seen.forEach(({ rest, track }, k) => {
    const p = apply(motionMatrix(motion, 9), rest.x, rest.y);
    expect(track.values.x[9]).toBeCloseTo(p.x, 4);
    expect(rest.x).toBeCloseTo(moveQuad(at(2), quad)[k].x, 4);
  });
});
