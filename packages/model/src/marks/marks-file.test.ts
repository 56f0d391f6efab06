import { parseMarks } from './marks-file.js';

const PICTURE = { width: 960, height: 540 };

/** A file with one soft surface. */
const cloth = (more: object) =>
  JSON.stringify({ soft: [{ name: 'flag', outline: [[10, 10], [300, 10], [300, 200], [10, 200]], ...more }] }); // prettier-ignore

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

  it('has soft surfaces, with what was left out filled in', () => {
    const { soft, spots } = parseMarks(cloth({ pins: [{ frame: 2, vertex: 1, x: 20, y: 4 }] }), PICTURE, 10);
    expect(spots).toEqual([]);
    expect(soft).toMatchObject([
      { name: 'flag', frame: 0, spacing: 40, fit: 'even', settings: { stiffness: 1 }, pins: [{ vertex: 1 }] },
    ]);
  });

  it('is read with a byte-order mark', () => {
    expect(parseMarks(`\uFEFF${one({})}`, PICTURE, 10).spots[0].name).toBe('gable');
  });

  it.each([
    ['{', /not JSON/],
    ['{"spots": []}', /no mark in it; give at least one spot or surface/],
    ['{"spots": [], "x": 1}', /x is not known/],
    [
      cloth({
        outline: [
          [0, 0],
          [90, 90],
          [90, 0],
          [0, 90],
        ],
      }),
      /soft\[0\]\.outline crosses itself/,
    ],
    [cloth({ frame: 10 }), /soft\[0\]\.frame must be a number from 0 to 9, not 10/],
    [cloth({ spacing: 2 }), /soft\[0\]\.spacing must be a number from 6 to 400/],
    [cloth({ fit: 'tight' }), /soft\[0\]\.fit must be one of even, texture, not "tight"/],
    [
      cloth({ pins: [{ frame: 2, vertex: 1, x: 2000, y: 4 }] }),
      /soft\[0\]\.pins\[0\]\.x must be a number from 0 to 960/,
    ],
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

describe('surfaces in MARKS.json', () => {
  const shape = [
    [100, 100],
    [300, 110],
    [290, 250],
    [95, 240],
  ];
  const one = (surface: object) => JSON.stringify({ surfaces: [{ name: 'door', shape, ...surface }] });
  const read = (surface: object) => parseMarks(one(surface), PICTURE, 10).surfaces[0];

  it('need no spots; four corners are the quad, of another shape it is the box', () => {
    const { spots, surfaces } = parseMarks(one({ frame: 3 }), PICTURE, 10);
    expect([spots, surfaces[0].frame]).toEqual([[], 3]);
    expect(surfaces[0].quad.map((p) => [p.x, p.y])).toEqual(shape);
    const five = read({ shape: [...shape, [90, 170]] });
    expect(five.quad[2]).toEqual({ x: 300, y: 250 });
    expect(read({ shape: [...shape].reverse() }).quad[0]).toEqual({ x: 95, y: 100 });
    expect(read({}).settings.allow).toBe('perspective');
    expect(read({ allow: 'affine', minConfidence: 0.4 }).settings).toMatchObject({
      allow: 'affine',
      minConfidence: 0.4,
    });
  });

  it.each([
    [{ shape: [shape[0], shape[2], shape[1], shape[3]] }, /surfaces\[0\]\.shape crosses itself/],
    [
      {
        shape: [
          [5, 5],
          [6, 6],
          [7, 7],
        ],
      },
      /shape has no area/,
    ],
    [
      {
        shape: [
          [2000, 5],
          [2100, 6],
          [2050, 90],
        ],
      },
      /shape lies outside the picture of 960 x 540/,
    ],
    [{ shape: shape.slice(0, 2) }, /shape must be 3 to 500 corners/],
    [{ quad: [...shape].reverse() }, /quad is turned over: its corners must go clockwise/],
    [{ quad: [shape[0], shape[2], shape[1], shape[3]] }, /quad is not convex/],
    [{ quad: shape.slice(1) }, /quad must be four corners/],
    [{ frame: 10 }, /frame must be a number from 0 to 9, not 10/],
    [{ allow: 'bend' }, /allow must be one of shift, similarity, sheared, affine, perspective/],
    [{ grid: 4 }, /grid is not known/],
  ])('say what is wrong (%#)', (surface, message) => {
    expect(() => read(surface)).toThrow(message);
  });

  it('have names of their own', () => {
    const twice = JSON.stringify({ surfaces: [1, 2].map(() => ({ name: 'door', shape })) });
    expect(() => parseMarks(twice, PICTURE, 10)).toThrow(/two surfaces are called "door"/);
  });
});
