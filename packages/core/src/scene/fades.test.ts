import { randomNumbers } from '../numbers.js';
import { partedAtFades } from './fades.js';
import { gathered, trackCount, trackEnd, type Growing } from './scene-tracks.js';

const SIZE = { width: 960, height: 540 };
const FRAMES = 120;

/** A feature that stands at a place, from a frame to another. */
function standing(x: number, y: number, from: number, to: number, drift = 0): Growing {
  const n = to - from + 1;
  return {
    start: from,
    x: Array.from({ length: n }, (_, i) => x + drift * i),
    y: Array.from({ length: n }, () => y),
    confidence: Array.from({ length: n }, () => 0.9),
  };
}
const random = randomNumbers(2);
const places = Array.from({ length: 90 }, () => [90 + 780 * random(), 90 + 360 * random()] as const);
const faded = (list: readonly Growing[], cuts: readonly number[] = []) => {
  const sorted = [...list].sort((a, b) => a.start - b.start);
  return partedAtFades(gathered(sorted, FRAMES, cuts, [1, 1]), SIZE);
};
const told = (list: readonly Growing[]) => faded(list).fades;
/** One picture passes into another: features end one after the other, and others begin, over so many frames about frame 60. */
const passing = (length: number) =>
  places.flatMap(([x, y]) => [
    standing(x, y, 0, 60 + Math.floor(length * (random() - 0.6))),
    standing(x + 9, y, 60 + Math.floor(length * (random() - 0.4)), FRAMES - 1),
  ]);

describe('a fade', () => {
  it.each([8, 16, 30, 44])('of %d frames is found where it lies', (length) => {
    const [fade, ...more] = told(passing(length));
    expect(more).toEqual([]);
    expect(Math.abs(fade.at - 60)).toBeLessThanOrEqual(0.2 * length);
    // Nine tenths of what ends, and of what begins: from -0.6 to 0.4 and from -0.4 to 0.6 of its length.
    expect(Math.abs(fade.from - (60 - 0.5 * length))).toBeLessThanOrEqual(0.1 * length + 1);
    expect(Math.abs(fade.to - (60 + 0.5 * length))).toBeLessThanOrEqual(0.1 * length + 1);
  });

  it('is found also where features lie near the rim', () => {
    const rim = Array.from({ length: 60 }, (_, i) => [16 * i + 4, i % 2 ? 20 : 520] as const);
    const list = rim.flatMap(([x, y]) => [standing(x, y, 0, 58), standing(x + 5, y, 61, FRAMES - 1)]);
    expect(told([...list, ...passing(16)])).toHaveLength(1);
  });

  it('in which a cut was found is parted there, once; a cut alone is none', () => {
    const { fades, tracks } = faded(passing(20), [63]);
    expect(fades.map((f) => f.at)).toEqual([63]);
    expect([...tracks.cuts]).toEqual([63]);
    const cut = places.flatMap(([x, y], i) => [
      standing(x, y, 0, 59),
      standing(y, x / 2, 60 + (i % 8), FRAMES - 1),
    ]);
    expect(faded(cut, [60]).fades).toEqual([]);
    expect([...faded(cut, [60]).tracks.cuts]).toEqual([60]);
  });

  it('is none at a cut before which features end one by one, as they do elsewhere', () => {
    const renewed = places.flatMap(([x, y], i): Growing[] => {
      if (i % 2) return [standing(x, y, 0, 59)];
      // Half of them end within the 30 frames before it, and others begin where they stood.
      const end = 30 + Math.floor(30 * random());
      return [standing(x, y, 0, end), standing(x, y, end + 1, 59)];
    });
    const after = places.map(([x, y]) => standing(y, x / 2, 60, FRAMES - 1));
    expect(faded([...renewed, ...after], [60]).fades).toEqual([]);
  });

  it('is a cut in the tracks, over which none goes: each belongs to where it is seen longer', () => {
    const { tracks, fades } = faded(passing(30));
    expect([...tracks.cuts]).toEqual([fades[0].at]);
    let samples = 0;
    for (let k = 0; k < trackCount(tracks); k++) {
      const [start, end] = [tracks.start[k], trackEnd(tracks, k)];
      expect(start >= fades[0].at || end <= fades[0].at).toBe(true);
      samples += end - start;
    }
    // The rest is as it was: three tenths of either ends over there at the worst.
    expect(samples).toBeGreaterThan(0.9 * 90 * FRAMES);
  });

  it('is none where the picture stays, however many features are renewed', () => {
    expect(told(places.map(([x, y]) => standing(x, y, 0, FRAMES - 1)))).toEqual([]);
    const renewed = places.flatMap(([x, y], i) =>
      i % 3 ? [standing(x, y, 0, FRAMES - 1)] : [standing(x, y, 0, 58), standing(x, y, 61, FRAMES - 1)],
    );
    expect(told(renewed)).toEqual([]);
  });

  it('is none where features come and go all the time', () => {
    const churn = places.flatMap(([x, y]) =>
      Array.from({ length: 8 }, (_, i) => {
        const from = 15 * i + Math.floor(6 * random());
        return standing(x, y, from, Math.min(FRAMES - 1, from + 12));
      }),
    );
    expect(told(churn)).toEqual([]);
  });

  it('is none where the camera turns away: what is seen leaves over the rim', () => {
    const pan = places.flatMap(([x, y]) => [
      standing(x, y, 0, 60, -x / 60),
      standing(950, y, 56, FRAMES - 1, -6),
    ]);
    expect(told(pan)).toEqual([]);
  });
});
