import { energyAbove, spectrum } from './spectrum.js';

const FPS = 30;
const sine = (hertz: number, amplitude: number, n = 256) =>
  Array.from({ length: n }, (_, i) => amplitude * Math.sin((2 * Math.PI * hertz * i) / FPS + 0.7));
const peakOf = (values: ArrayLike<number>) => {
  const { frequencies, amplitudes } = spectrum(values, FPS);
  const k = amplitudes.indexOf(Math.max(...amplitudes));
  return { hertz: frequencies[k], amplitude: amplitudes[k] };
};

describe('a spectrum', () => {
  it('shows a sine as its amplitude at its frequency, on a trend and with values missing', () => {
    const plain = peakOf(sine((FPS * 20) / 256, 3));
    expect(plain.hertz).toBeCloseTo((FPS * 20) / 256, 6);
    expect(plain.amplitude).toBeCloseTo(3, 1);
    const tilted = peakOf(sine((FPS * 20) / 256, 3).map((v, i) => (i % 50 === 7 ? NaN : v + 0.8 * i - 40)));
    expect(tilted.hertz).toBeCloseTo((FPS * 20) / 256, 6);
    expect(tilted.amplitude).toBeGreaterThan(2.8);
  });

  it('reaches half the frame rate, whatever the length', () => {
    for (const n of [5, 100, 181]) {
      const { frequencies, amplitudes } = spectrum(sine(3, 1, n), FPS);
      expect(frequencies[frequencies.length - 1]).toBeCloseTo(FPS / 2, 9);
      expect([...amplitudes].every(Number.isFinite)).toBe(true);
    }
    expect(spectrum([1, 2, 3], FPS).frequencies).toHaveLength(0);
  });

  it('tells the energy above a frequency from that below', () => {
    const slow = sine(0.4, 10);
    const fast = sine(4, 1);
    const both = slow.map((v, i) => v + fast[i]);
    expect(energyAbove(both, FPS, 1) / energyAbove(fast, FPS, 1)).toBeCloseTo(1, 1);
    expect(energyAbove(slow, FPS, 1)).toBeLessThan(0.001 * energyAbove(slow, FPS, 0.1));
    expect(energyAbove(sine(4, 2), FPS, 1) / energyAbove(fast, FPS, 1)).toBeCloseTo(4, 6);
  });

  it('is nothing for a straight course', () => {
    const straight = Array.from({ length: 90 }, (_, i) => 3 * i - 7);
    expect(Math.max(...spectrum(straight, FPS).amplitudes)).toBeLessThan(1e-9);
  });
});
