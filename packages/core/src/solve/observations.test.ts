import { type SampleState } from '../track/measured.js';
import { EMPTY_TRACK, withSamples, type Track } from '../track/track.js';
import { anchorFrame, observe, onlyOf, thinned } from './observations.js';

const track = (
  from: number,
  to: number,
  state: (f: number) => SampleState = () => 'tracked',
  x = 100,
): Track =>
  withSamples(
    EMPTY_TRACK,
    Array.from({ length: to - from + 1 }, (_, i) => ({
      ...{ frame: from + i, x: x + from + i, y: 50, confidence: 0.8, state: state(from + i) },
    })),
  );
const spotsOn = (seen: ReturnType<typeof observe>, f: number) => [
  ...seen.spot.subarray(seen.first[f], seen.first[f + 1]),
];

describe('gathering samples', () => {
  it('has them frame by frame, in square pixels about their mean', () => {
    const seen = observe([track(0, 9), track(4, 9, undefined, 300)], 10, 2);
    expect(spotsOn(seen, 3)).toEqual([0]);
    expect(spotsOn(seen, 4)).toEqual([0, 1]);
    const at = seen.first[4];
    expect(seen.x[at + 1] - seen.x[at]).toBeCloseTo(2 * 200, 9);
    expect(seen.x[at] / 2 + seen.originX).toBeCloseTo(104, 9);
    expect(seen.y[at] + seen.originY).toBeCloseTo(50, 9);
  });

  it('lets a spot come and go gradually, but not where the clip itself begins and ends', () => {
    const seen = observe([track(0, 59), track(20, 40)], 60, 1);
    const weight = (spot: number, f: number) => seen.weight[seen.first[f] + spotsOn(seen, f).indexOf(spot)];
    expect([weight(0, 0), weight(0, 59)]).toEqual([0.8, 0.8]);
    const rise = Array.from({ length: 9 }, (_, k) => weight(1, 20 + k));
    expect(rise.every((w, k) => k === 0 || w > rise[k - 1])).toBe(true);
    expect(rise[0]).toBeLessThan(0.1);
    expect(weight(1, 30)).toBeCloseTo(0.8, 9);
    expect(weight(1, 40)).toBeCloseTo(rise[0], 9);
  });

  it('takes coasted samples only before and after all that was seen', () => {
    const coasts = (f: number): SampleState => (f < 3 || (f > 9 && f < 13) ? 'coasted' : 'tracked');
    const seen = observe([track(0, 19, coasts)], 20, 1);
    expect([1, 5, 11, 15].map((f) => spotsOn(seen, f).length)).toEqual([1, 1, 0, 1]);
    expect([1, 5, 11, 15].map((f) => seen.guessed[f])).toEqual([0, 0, 1, 0]);
  });

  it('leaves samples outside the clip out', () => {
    const late = { ...track(0, 9), start: 15 };
    const early = { ...track(0, 9), start: -4 };
    const seen = observe([late, early], 20, 1);
    expect(seen.first[20]).toBe(5 + 6);
  });

  it('thins evenly, but keeps all of a scarce spot', () => {
    const tracks = [track(0, 999), track(0, 999), track(500, 519)];
    const seen = observe(tracks, 1000, 1);
    const few = thinned(seen, 400);
    const kept = (spot: number) => few.spot.filter((s) => s === spot).length;
    expect(kept(2)).toBe(20);
    expect(kept(0)).toBeLessThan(230);
    expect(kept(0)).toBeGreaterThan(150);
    expect(few.x[few.first[505]]).toBe(seen.x[seen.first[505]]);
    expect(thinned(seen, 5000)).toBe(seen);
  });

  it('keeps chosen spots alone, and starts where most are seen', () => {
    const seen = observe([track(0, 30), track(10, 20), track(15, 18)], 31, 1);
    expect(anchorFrame(seen, 0)).toBe(15);
    expect(anchorFrame(seen, 30)).toBe(18);
    const some = onlyOf(seen, [true, false, true]);
    expect(spotsOn(some, 16)).toEqual([0, 2]);
    expect(spotsOn(some, 12)).toEqual([0]);
    expect(anchorFrame(onlyOf(seen, [false, false, false]), 0)).toBeNull();
  });
});
