import { frameAt } from './player';

describe('the frame at a time', () => {
  const times = Float64Array.of(0, 0.04, 0.12, 0.16, 0.5);

  it('is the last that has begun, at constant and varying rates', () => {
    expect([0, 0.039, 0.04, 0.119, 0.13, 0.49, 9].map((t) => frameAt(times, t))).toEqual([
      0, 0, 1, 1, 2, 3, 4,
    ]);
  });

  it('is the first before the beginning', () => expect(frameAt(times, -1)).toBe(0));
});
