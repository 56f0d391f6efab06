import { randomNumbers } from '../numbers.js';
import { cutAtFades, fadesIn } from './fades.js';
import { gathered, type Growing } from './scene-tracks.js';

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
const told = (list: readonly Growing[]) =>
  fadesIn(
    gathered(
      [...list].sort((a, b) => a.start - b.start),
      FRAMES,
      [],
      [1, 1],
    ),
    SIZE,
  );

describe('a fade', () => {
  it('is found where nearly all features end, and others begin, within some frames', () => {
    // Over 16 frames about frame 60.
    const list = places.flatMap(([x, y]) => [
      standing(x, y, 0, 54 + Math.floor(10 * random())),
      standing(x + 9, y, 56 + Math.floor(10 * random()), FRAMES - 1),
    ]);
    const fades = told(list);
    expect(fades).toHaveLength(1);
    expect(Math.abs(fades[0].at - 60)).toBeLessThan(4);
    const cut = cutAtFades(gathered(list, FRAMES, [], [1, 1]), SIZE);
    expect([...cut.cuts]).toEqual([fades[0].at]);
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
