import fc from 'fast-check';
import { smoothGaussian } from './gaussian.js';

describe('Gaussian smoothing', () => {
  it('leaves a straight course exactly as it is, to its very ends', () => {
    const number = fc.double({ min: -50, max: 50, noNaN: true });
    fc.assert(
      fc.property(
        number,
        number,
        fc.integer({ min: 1, max: 60 }),
        fc.constantFrom(0.5, 3, 12),
        (a, b, n, sigma) => {
          const line = Array.from({ length: n }, (_, i) => a + b * i);
          smoothGaussian(line, sigma).forEach((v, i) => expect(v).toBeCloseTo(line[i], 6));
        },
      ),
    );
  });

  it('takes out what is fast and keeps what is slow', () => {
    const at = (period: number) =>
      Array.from({ length: 400 }, (_, i) => Math.sin((2 * Math.PI * i) / period));
    const left = (period: number) => Math.max(...smoothGaussian(at(period), 6).slice(100, 300).map(Math.abs));
    expect(left(10)).toBeLessThan(0.01);
    expect(left(200)).toBeGreaterThan(0.97);
  });

  it('returns a copy for no smoothing', () => {
    expect([...smoothGaussian([3, 1, 2], 0)]).toEqual([3, 1, 2]);
  });
});
