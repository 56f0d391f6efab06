import { parseMarks } from './marks-file.js';

const PICTURE = { width: 960, height: 540 };

describe('MARKS.json', () => {
  const one = (spot: object) =>
    JSON.stringify({ spots: [{ name: 'gable', frame: 0, x: 10, y: 20, ...spot }] });

  it('fills in sizes scaled with the height', () => {
    expect(parseMarks(one({}), PICTURE, 10).spots[0].settings).toMatchObject({
      patch: [11, 11],
      reach: [24, 18],
    });
    expect(parseMarks(one({ patch: [7, 9] }), PICTURE, 10).spots[0].settings.patch).toEqual([7, 9]);
  });

  it('is read with a byte-order mark', () => {
    expect(parseMarks(`\uFEFF${one({})}`, PICTURE, 10).spots[0].name).toBe('gable');
  });

  it.each([
    ['{', /not JSON/],
    ['{"spots": []}', /"spots" is empty/],
    ['{"spots": [], "x": 1}', /x is not known/],
    ['{"spots": [], "surfaces": []}', /"surfaces" is not built yet/],
    ['[]', /it must be \{ "spots"/],
    [one({ colour: 'red' }), /spots\[0\]\.colour is not known/],
    [one({ refresh: 'often' }), /spots\[0\]\.refresh must be one of never, auto, always, not "often"/],
    [one({ detail: 99 }), /detail must be a number from 0 to 10/],
    [one({ pins: [{ frame: 0, x: 1, y: 1 }] }), /pins\[0\]: frame 0 has a place already/],
    [one({ pins: [{ frame: 3, x: 1, y: null }] }), /pins\[0\]\.y must be a number/],
    [one({ patch: [15, 501] }), /patch must be two whole numbers of pixels from 3 to 500/],
    [one({ frame: 1.5 }), /spots\[0\]\.frame must be a whole number, not 1\.5/],
    [one({ patch: null }), /spots\[0\]\.patch must be two whole numbers/],
    [one({ x: -4 }), /spots\[0\]\.x must be a number from 0 to 960, not -4/],
    [one({ frame: 10 }), /spots\[0\]\.frame must be a number from 0 to 9, not 10/],
    [one({ patch: [0, 4] }), /spots\[0\]\.patch must be two whole numbers/],
    [one({ minConfidence: 2 }), /minConfidence must be a number from 0 to 1/],
    [
      JSON.stringify({ spots: [1, 2].map(() => ({ name: 'a', frame: 0, x: 1, y: 1 })) }),
      /two spots are called "a"/,
    ],
  ])('says what is wrong (%#)', (text, message) => {
    expect(() => parseMarks(text, PICTURE, 10)).toThrow(message);
  });
});
