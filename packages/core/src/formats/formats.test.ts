import {
  EMPTY_TRACK,
  sampleAt,
  withoutSamples,
  withSamples,
  countSamples,
  type FramedSample,
} from '../track/track.js';
import { fromColumns, toColumns } from './columns.js';
import { parseSpots } from './spots-file.js';
import { parseTracks, writeTracks } from './tracks-file.js';
import { writeMotion } from './motion-file.js';

const PICTURE = { width: 960, height: 540 };
const samples: FramedSample[] = [
  { frame: 3, x: 412.5, y: 220.25, confidence: 1, state: 'pinned' },
  { frame: 4, x: 413.1234, y: 221, confidence: 0.91, state: 'tracked' },
  { frame: 7, x: 420, y: 225, confidence: 0.2, state: 'coasted' },
];
const track = withSamples(EMPTY_TRACK, samples);

describe('tracks', () => {
  it('hold samples, gaps and nothing else', () => {
    expect(sampleAt(track, 4)).toMatchObject({ x: 413.1234, state: 'tracked' });
    expect(sampleAt(track, 5)).toBeNull();
    expect(sampleAt(track, 2)).toBeNull();
    expect(countSamples(track)).toBe(3);
  });

  it('grow to either side and shrink again, the original untouched', () => {
    const longer = withSamples(track, [{ frame: 0, x: 1, y: 2, confidence: 1, state: 'tracked' }]);
    expect(longer.start).toBe(0);
    const shorter = withoutSamples(longer, 4, 9);
    expect([shorter.start, shorter.state.length]).toEqual([0, 4]);
    expect(countSamples(track)).toBe(3);
    expect(withoutSamples(track, 0, 9, (s) => s !== 'pinned').state.length).toBe(1);
  });

  it('pass through columns unchanged', () => {
    expect(fromColumns(JSON.parse(JSON.stringify(toColumns(track))))).toEqual(track);
  });

  it.each([
    [{ start: 0, x: [1], y: [1], confidence: [1], state: 'tt' }],
    [{ start: 0, x: [null], y: [1], confidence: [1], state: 't' }],
    [{ start: -1, x: [1], y: [1], confidence: [1], state: 't' }],
    [{ start: 0, x: [1], y: [1], confidence: [1], state: 'z' }],
  ])('columns that do not fit are refused: %j', (columns) => {
    expect(() => fromColumns(columns)).toThrow(expect.objectContaining({ code: 'bad-track' }));
  });
});

describe('TRACKS.csv', () => {
  const times = Array.from({ length: 10 }, (_, i) => i / 25);

  it('comes back as it was written, names with commas and quotes included', () => {
    const text = writeTracks([{ name: 'gable, "north"', track }], times);
    expect(text.split('\n')[0]).toBe('spot,frame,time_s,x_px,y_px,confidence,state');
    const [back] = parseTracks(text, 10);
    expect(back.name).toBe('gable, "north"');
    expect(back.track).toEqual(track);
  });

  const row = (line: string) => `spot,frame,time_s,x_px,y_px,confidence,state\na,0,0,1,1,1,pinned\n${line}\n`;
  it.each([
    ['frame;x;y', /line 1: the columns must be/],
    [row('a,99,0,1,1,1,tracked'), /line 3: column frame: 99 is not a frame of the clip \(0 to 9\)/],
    [row('a,1,0,NaN,1,1,tracked'), /line 3: column x_px: "NaN" is not a number/],
    [row('a,1,0,1,1,1,guessed'), /line 3: column state/],
    [row('a,0,0,1,1,1,tracked'), /line 3: "a" has a second sample on frame 0/],
    [row('a,1,0,1'), /line 3: 4 columns where 7 are due/],
    [row('"a,1,0,1,1,1,tracked'), /line 3: a quotation mark is not closed/],
  ])('names line and column of what is wrong (%#)', (text, message) => {
    expect(() => parseTracks(text, 10)).toThrow(message);
  });
});

describe('SPOTS.json', () => {
  const one = (spot: object) =>
    JSON.stringify({ spots: [{ name: 'gable', frame: 0, x: 10, y: 20, ...spot }] });

  it('fills in sizes scaled with the height', () => {
    expect(parseSpots(one({}), PICTURE, 10)[0].settings).toMatchObject({ patch: [11, 11], reach: [24, 18] });
    expect(parseSpots(one({ patch: [7, 9] }), PICTURE, 10)[0].settings.patch).toEqual([7, 9]);
  });

  it.each([
    ['{', /not JSON/],
    ['{"spots": []}', /"spots" is empty/],
    ['{"spots": [], "x": 1}', /unknown key "x"/],
    [one({ colour: 'red' }), /spots\[0\]: unknown key "colour"/],
    [one({ refresh: 'often' }), /spots\[0\]\.refresh must be one of never, always, auto, not "often"/],
    [one({ detail: 99 }), /detail must be a number from 0 to 10/],
    [one({ pins: [{ frame: 0, x: 1, y: 1 }] }), /pins\[0\]: frame 0 has a place already/],
    [one({ pins: [{ frame: 3, x: 1, y: null }] }), /pins\[0\]\.y must be a number from 0 to 540/],
    [one({ x: -4 }), /spots\[0\]\.x must be a number from 0 to 960, not -4/],
    [one({ frame: 10 }), /spots\[0\]\.frame must be a whole number from 0 to 9, not 10/],
    [one({ patch: [0, 4] }), /spots\[0\]\.patch must be two whole numbers/],
    [one({ minConfidence: 2 }), /minConfidence must be a number from 0 to 1/],
    [
      JSON.stringify({ spots: [1, 2].map(() => ({ name: 'a', frame: 0, x: 1, y: 1 })) }),
      /two spots are called "a"/,
    ],
  ])('says what is wrong (%#)', (text, message) => {
    expect(() => parseSpots(text, PICTURE, 10)).toThrow(message);
  });
});

describe('MOTION.json', () => {
  it('has the keys of the convention', () => {
    const I = [1, 0, 0, 0, 1, 0, 0, 0, 1] as const;
    const text = writeMotion({ ...PICTURE, frames: 1, fps: 25 }, 0, 1.08, [
      { frame: 0, motion: I, correction: I, framing: I, residual: NaN },
    ]);
    expect(JSON.parse(text)).toEqual({
      clip: { width: 960, height: 540, frames: 1, fps: 25 },
      ref: 0,
      zoom: 1.08,
      frames: [{ frame: 0, motion: I, correction: I, framing: I, residual_px: null }],
    });
  });
});
