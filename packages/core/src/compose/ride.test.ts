import { apply, invert, multiply } from '../geometry/matrix.js';
import { motionMatrix } from '../solve/motion.js';
import { solveMotion } from '../solve/solve-motion.js';
import { EMPTY_SURFACE_TRACK, withSurfaceSamples } from '../surface/surface-track.js';
import { asSpots, shakes, trackOf } from '../testing/motions.js';
import { keyedAt } from './look-layer.js';
import { carry, type Ride } from './ride.js';

const truth = shakes(30, 4);
const middle = { x: 400, y: 300 };
const at = (frame: number, x: number, y: number) => apply(truth[frame], x, y);

describe('a layer that rides', () => {
  it('stays where it is on the frame, and with nothing that it could ride on', () => {
    expect(carry({ on: 'frame' }, { own: 3, frame: 20, unknown: 'bridge', middle, motions: {} }).m).toEqual([
      1, 0, 0, 0, 1, 0, 0, 0, 1,
    ]);
    const gone: Ride = { on: 'mover', mover: 'gone', rotation: true, scale: true };
    expect(carry(gone, { own: 3, frame: 20, unknown: 'bridge', middle, motions: {} })).toMatchObject({
      share: 1,
      confidence: 0,
    });
  });

  it('goes with a spot by its place', () => {
    const ride: Ride = { on: 'spot', track: trackOf(truth, 300, 200) };
    const [a, b] = [at(5, 300, 200), at(17, 300, 200)];
    const { m } = carry(ride, { own: 5, frame: 17, unknown: 'bridge', middle, motions: {} });
    expect(apply(m, a.x, a.y).x).toBeCloseTo(b.x, 9);
    expect(apply(m, a.x + 50, a.y)).toEqual({ x: expect.closeTo(b.x + 50, 9), y: expect.closeTo(b.y, 9) });
  });

  it('where the spot is hidden is bridged, held, faded or off, as told', () => {
    const ride: Ride = { on: 'spot', track: trackOf(truth, 300, 200, (f) => f <= 10 || f >= 20) };
    const [before, after] = [at(10, 300, 200), at(20, 300, 200)];
    const from = at(0, 300, 200);
    const of = (unknown: 'bridge' | 'hold' | 'fade' | 'off', frame = 14) => {
      const { m, share, confidence } = carry(ride, { own: 0, frame, unknown, middle, motions: {} });
      return { x: apply(m, from.x, from.y).x, share, confidence };
    };
    expect(of('bridge')).toEqual({
      x: expect.closeTo(before.x + 0.4 * (after.x - before.x), 6),
      share: 1,
      confidence: 0,
    });
    expect(of('hold').x).toBeCloseTo(before.x, 6);
    expect(of('off').share).toBe(0);
    expect([of('fade', 11).share, of('fade', 15).share, of('fade', 19).share]).toEqual([
      expect.closeTo(8 / 9, 9),
      expect.closeTo(4 / 9, 9),
      expect.closeTo(8 / 9, 9),
    ]);
  });

  it('goes with a mover, turning and growing only if that is wished', () => {
    const spots = asSpots([trackOf(truth, 300, 200), trackOf(truth, 900, 500)]);
    const motions = { m: solveMotion({ frames: 30, ref: 0, spots })! };
    const whole = multiply(motionMatrix(motions.m, 17), invert(motionMatrix(motions.m, 5)));
    const of = (rotation: boolean, scale: boolean) =>
      carry(
        { on: 'mover', mover: 'm', rotation, scale },
        { own: 5, frame: 17, unknown: 'bridge', middle, motions },
      ).m;
    of(true, true).forEach((v, i) => expect(v).toBeCloseTo(whole[i], 9));
    const there = apply(whole, middle.x, middle.y);
    const plain = of(false, false);
    expect([plain[0], plain[1]]).toEqual([expect.closeTo(1, 12), expect.closeTo(0, 12)]);
    expect(apply(plain, middle.x, middle.y).x).toBeCloseTo(there.x, 9);
    const turned = of(true, false);
    expect(Math.hypot(turned[0], turned[3])).toBeCloseTo(1, 9);
    expect(Math.atan2(turned[3], turned[0])).toBeCloseTo(Math.atan2(whole[3], whole[0]), 9);
  });

  it('does not go with a mover beyond a cut: there is another picture', () => {
    const spots = asSpots([trackOf(truth, 300, 200), trackOf(truth, 900, 500)]);
    const motions = { m: { ...solveMotion({ frames: 30, ref: 0, spots })!, cuts: [10] } };
    const ride: Ride = { on: 'mover', mover: 'm', rotation: true, scale: true };
    const of = (own: number, frame: number) =>
      carry(ride, { own, frame, unknown: 'bridge', middle, motions });
    expect([of(5, 9).share, of(5, 10).share, of(12, 9).share, of(12, 20).share]).toEqual([1, 0, 0, 1]);
  });

  it('leans with a surface', () => {
    const base = [
      { x: 100, y: 100 },
      { x: 300, y: 110 },
      { x: 290, y: 260 },
      { x: 90, y: 240 },
    ] as const;
    const there = [
      { x: 120, y: 90 },
      { x: 330, y: 120 },
      { x: 300, y: 280 },
      { x: 100, y: 230 },
    ] as const;
    const track = withSurfaceSamples(EMPTY_SURFACE_TRACK, [
      { frame: 0, corners: base, confidence: 1, state: 'pinned' },
      { frame: 9, corners: there, confidence: 0.8, state: 'tracked' },
    ]);
    const { m, confidence } = carry(
      { on: 'surface', track, base },
      { own: 0, frame: 9, unknown: 'off', middle, motions: {} },
    );
    base.forEach((p, i) => expect(apply(m, p.x, p.y).x).toBeCloseTo(there[i].x, 6));
    expect(confidence).toBeCloseTo(0.8, 6);
    expect(
      carry({ on: 'surface', track, base }, { own: 0, frame: 12, unknown: 'off', middle, motions: {} }).share,
    ).toBe(0);
  });
});

describe('keys of a layer', () => {
  it('say how opaque it is and how far it is moved, between them too', () => {
    const keys = [
      { frame: 10, opacity: 0, x: 0, y: 0, easing: 'linear' },
      { frame: 20, opacity: 1, x: 8, y: -4, easing: 'hold' },
      { frame: 30, opacity: 0.5, x: 0, y: 0, easing: 'smooth' },
    ] as const;
    const at = (frame: number) => keyedAt({ keys, opacity: 0.3 }, frame);
    expect(at(3)).toMatchObject({ opacity: 0 });
    expect(at(15)).toMatchObject({ opacity: 0.5, x: 4, y: -2 });
    expect(at(29)).toMatchObject({ opacity: 1, x: 8 });
    expect(at(99)).toMatchObject({ opacity: 0.5 });
    expect(keyedAt({ keys: [], opacity: 0.3 }, 5)).toEqual({ opacity: 0.3, x: 0, y: 0 });
  });
});
