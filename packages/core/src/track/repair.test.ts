import { joinOn, patchPlace, pathPlace, type Join } from './joins.js';
import { goOn, withOthers } from './prediction.js';
import { bridge, tame } from './repair.js';
import { withoutSamples } from './measured.js';
import { EMPTY_TRACK, sampleAt, samplesOf, withSamples, type FramedSample } from './track.js';

const at = (frame: number, x: number, y: number, state: FramedSample['state'] = 'tracked'): FramedSample => ({
  ...{ frame, x, y, confidence: 0.9, state },
});

describe('bridging a gap', () => {
  const parabola = withSamples(
    EMPTY_TRACK,
    Array.from({ length: 30 }, (_, f) => at(f, 3 * f, 0.1 * f * f)),
  );

  it('leaves and arrives as the path does, and says so', () => {
    const bridged = bridge(withoutSamples(parabola, 10, 19), 10, 19);
    for (let f = 10; f < 20; f++) {
      const s = sampleAt(bridged, f)!;
      expect(s.state).toBe('bridged');
      expect(s.x).toBeCloseTo(3 * f, 6);
      expect(Math.abs(s.y - 0.1 * f * f)).toBeLessThan(1.2);
    }
    // No kink: the step into the gap is like the step before it.
    const step = (f: number) => sampleAt(bridged, f)!.y - sampleAt(bridged, f - 1)!.y;
    expect(Math.abs(step(10) - step(9))).toBeLessThan(0.6);
    expect(Math.abs(step(20) - step(21))).toBeLessThan(0.6);
  });

  it('replaces coasted samples, never measured ones or pins', () => {
    const mixed = withSamples(parabola, [at(12, 500, 500, 'coasted'), at(14, 77, 77, 'pinned')]);
    const bridged = bridge(mixed, 0, 29);
    expect(sampleAt(bridged, 12)!.x).toBeLessThan(60);
    expect(sampleAt(bridged, 14)).toMatchObject({ x: 77, state: 'pinned' });
  });

  it('goes through sparse pins along a smooth curve', () => {
    const pins = withSamples(
      EMPTY_TRACK,
      [0, 10, 20, 30].map((f) => at(f, 2 * f, 0, 'pinned')),
    );
    const bridged = bridge(pins, 0, 30);
    for (let f = 0; f <= 30; f++) expect(sampleAt(bridged, f)!.x).toBeCloseTo(2 * f, 6);
  });

  it('needs a sample on both sides', () => {
    expect(() => bridge(parabola, 30, 40)).toThrow(expect.objectContaining({ code: 'nothing-to-bridge' }));
    expect(() => bridge(EMPTY_TRACK, 0, 9)).toThrow(expect.objectContaining({ code: 'nothing-to-bridge' }));
  });
});

describe('taming the hand', () => {
  const jitter = [0.8, -1, 0.6, -0.7, 1, -0.9, 0.5, -0.6, 0.9, -0.8];
  const hand = withSamples(
    EMPTY_TRACK,
    jitter.map((j, f) => at(f, 2 * f + j, 10, 'pinned')),
  );
  const unrest = (amount: number) => {
    const track = tame(hand, 0, 9, amount);
    return [...samplesOf(track)].slice(1, -1).reduce((s, p) => s + Math.abs(p.x - 2 * p.frame), 0);
  };

  it('takes jitter out by the amount, and leaves the course', () => {
    expect(tame(hand, 0, 9, 0)).toBe(hand);
    expect(unrest(0.5)).toBeLessThan(0.8 * unrest(0));
    expect(unrest(1)).toBeLessThan(0.4 * unrest(0));
    expect(Math.abs(sampleAt(tame(hand, 0, 9, 1), 5)!.x - 10)).toBeLessThan(0.8);
  });

  it('touches nothing but the pins of the span', () => {
    const mixed = withSamples(hand, [at(4, 99, 99, 'tracked')]);
    const tamed = tame(mixed, 0, 9, 1);
    expect(sampleAt(tamed, 4)).toEqual(sampleAt(mixed, 4));
    expect(sampleAt(tame(mixed, 6, 9, 1), 1)).toEqual(sampleAt(mixed, 1));
  });
});

describe('carrying on elsewhere', () => {
  const join: Join = { frame: 10, dx: 30, dy: -12, companion: 'b' };

  it('holds from its frame on', () => {
    const later = { ...join, frame: 20 };
    expect([9, 10, 19, 25].map((f) => joinOn([later, join], f))).toEqual([null, join, join, later]);
  });

  it('keeps the offset, turned and grown with a companion, and comes back exactly', () => {
    // Everything turns by 0.4 and grows by 1.2 about the origin.
    const turn = ({ x, y }: { x: number; y: number }) => ({
      x: 1.2 * (Math.cos(0.4) * x - Math.sin(0.4) * y),
      y: 1.2 * (Math.sin(0.4) * x + Math.cos(0.4) * y),
    });
    const path = { x: 100, y: 60 };
    const companion = (f: number) => (f === 10 ? { x: 300, y: 90 } : turn({ x: 300, y: 90 }));
    const patch = patchPlace(join, turn(path), path, 30, companion);
    const truth = turn({ x: 130, y: 48 });
    expect(patch.x).toBeCloseTo(truth.x, 9);
    expect(patch.y).toBeCloseTo(truth.y, 9);
    const back = pathPlace(join, patch, path, 30, companion);
    expect(back.x).toBeCloseTo(turn(path).x, 9);
    expect(back.y).toBeCloseTo(turn(path).y, 9);
  });

  it('keeps the plain offset without one', () => {
    expect(patchPlace(join, { x: 5, y: 5 }, { x: 1, y: 1 }, 30)).toEqual({ x: 35, y: -7 });
    expect(pathPlace(null, { x: 5, y: 5 }, null, 30)).toEqual({ x: 5, y: 5 });
  });
});

describe('prediction', () => {
  const line = Array.from({ length: 8 }, (_, f) => ({ frame: f, x: 2 * f, y: 100 - f }));

  it('goes on along a straight line, either way along time', () => {
    expect(goOn(line, 10)).toMatchObject({ x: expect.closeTo(20, 6), y: expect.closeTo(90, 6) });
    expect(goOn([...line].reverse(), -3)).toMatchObject({
      x: expect.closeTo(-6, 6),
      y: expect.closeTo(103, 6),
    });
    expect(goOn(line.slice(0, 1), 9)).toEqual({ x: 0, y: 100 });
  });

  it('follows others only when they moved together before', () => {
    const beside = (f: number) => ({ x: 2 * f + 40, y: 150 - f });
    const other = (f: number) => ({ x: 40 + 9 * Math.sin(2 * f), y: 50 });
    expect(withOthers(line, [beside], 12)).toMatchObject({
      x: expect.closeTo(24, 6),
      y: expect.closeTo(88, 6),
    });
    expect(withOthers(line, [other], 12)).toBeNull();
    expect(withOthers(line, [], 12)).toBeNull();
  });
});
