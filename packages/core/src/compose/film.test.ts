import { filmFrame } from './look-layer.js';
import { filmKey, filmOf } from './raster.js';

const film = { first: 4, rate: 1, frames: 20, play: 'step' } as const;

describe('the frame of a film that is seen', () => {
  it('goes in step as long as it lasts, and there is none before or after', () => {
    expect([-5, -4, 0, 1, 15, 16].map((after) => filmFrame(film, after))).toEqual([null, 0, 4, 5, 19, null]);
  });

  it('goes round and round, also before the layer’s own frame', () => {
    const loop = { ...film, play: 'loop' } as const;
    expect([-5, 15, 16, 36, 56].map((after) => filmFrame(loop, after))).toEqual([19, 19, 0, 0, 0]);
  });

  it('stands, however late', () => {
    const frozen = { ...film, play: 'frozen' } as const;
    expect([-50, 0, 500].map((after) => filmFrame(frozen, after))).toEqual([4, 4, 4]);
    expect(filmFrame({ ...frozen, first: 99 }, 0)).toBe(19);
  });

  it('keeps time where the rates differ', () => {
    // 25 frames a second in a shot of 30, and 60 in one of 24.
    expect([0, 5, 6, 12].map((after) => filmFrame({ ...film, first: 0, rate: 25 / 30 }, after))).toEqual([
      0, 4, 5, 10,
    ]);
    expect([1, 2, 4].map((after) => filmFrame({ ...film, first: 0, rate: 2.5 }, after))).toEqual([2, 5, 10]);
    for (let k = 0; k < 600; k++)
      expect(filmFrame({ ...film, first: 0, frames: 1e6, rate: 25 / 30 }, 6 * k)).toBe(5 * k);
  });

  it('is asked for by a key that tells it', () => {
    expect(filmOf(filmKey(filmKey('ab'), 7))).toEqual({ film: filmKey('ab'), frame: 7 });
    expect([filmOf('asset ab'), filmOf(filmKey('ab'))]).toEqual([null, null]);
  });
});
