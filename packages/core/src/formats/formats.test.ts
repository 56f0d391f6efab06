import { withoutSamples, countSamples } from '../track/measured.js';
import { EMPTY_TRACK, sampleAt, withSamples, type FramedSample } from '../track/track.js';
import { fromJson, toJson, type MeasuredJson } from './columns.js';
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
    expect(fromJson(JSON.parse(JSON.stringify(toJson(track))))).toEqual(track);
    const turned = withSamples(track, [{ ...samples[1], turn: 0.25, scale: 1.5, mismatch: 2 }]);
    expect(Object.keys(toJson(track).values)).toEqual(['x', 'y']);
    expect(Object.keys(toJson(turned).values)).toEqual(['x', 'y', 'mismatch', 'turn', 'scale']);
    expect(fromJson(JSON.parse(JSON.stringify(toJson(turned))))).toEqual(turned);
  });

  const json = { kind: 'spot' as const, start: 0, state: 't', confidence: [1], values: { x: [1], y: [1] } };
  it.each([
    [{ state: 'tt' }, /confidence and state differ in length/],
    [{ values: { x: [null], y: [1] } }, /frame 0 has a state but no x/],
    [{ values: { x: [1] } }, /y is missing/],
    [{ values: { x: [1], y: [1], z: [1] } }, /"z" is not one of its columns/],
    [{ start: -1 }, /the first frame/],
    [{ confidence: [5] }, /frame 0 has a confidence of 5, which goes from 0 to 1/],
    [{ confidence: [-1] }, /a confidence of -1/],
    [{ state: 'z' }, /a state is not one of/],
    [{ kind: 'cloud' as 'spot' }, /"cloud" is no kind of tracker/],
  ])('columns that do not fit are refused: %j', (change, message) => {
    const odd = { ...json, ...change } as MeasuredJson;
    expect(() => fromJson(odd)).toThrow(expect.objectContaining({ code: 'bad-track' }));
    expect(() => fromJson(odd)).toThrow(message);
  });
});

describe('TRACKS.csv', () => {
  const times = Array.from({ length: 10 }, (_, i) => i / 25);

  it('comes back with the shape of the patch, where that is asked for', () => {
    const turned = withSamples(track, [{ ...samples[1], turn: 0.25, scale: 1.5 }]);
    const text = writeTracks([{ name: 'sign', track: turned }], times, true);
    expect(text.split('\n').slice(0, 3)).toEqual([
      'spot,frame,time_s,x_px,y_px,confidence,state,turn_deg,scale_pct',
      'sign,3,0.120000,412.5000,220.2500,1.000,pinned,,',
      'sign,4,0.160000,413.1234,221.0000,0.910,tracked,14.3239,150.0000',
    ]);
    const [back] = parseTracks(text, 10);
    expect(sampleAt(back.track, 4)!.turn).toBeCloseTo(0.25, 5);
    expect(sampleAt(back.track, 4)!.scale).toBeCloseTo(1.5, 9);
    expect(sampleAt(back.track, 3)!.turn).toBeUndefined();
  });

  it.each(['two\nlines', 'a\r\nb', 'comma, and "quotes"', ' blank '])('keeps the name %j', (name) => {
    const text = `\uFEFF${writeTracks(
      [
        { name, track },
        { name: 'after', track },
      ],
      times,
    )}`;
    expect(parseTracks(text, 10)).toEqual([
      { name, track },
      { name: 'after', track },
    ]);
    const broken = text.replace('after,4', 'after,400');
    const line = 1 + 3 * (1 + (name.match(/\r\n|\n/g)?.length ?? 0)) + 2;
    expect(() => parseTracks(broken, 10)).toThrow(`line ${line}: column frame`);
  });

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

describe('MOTION.json', () => {
  it('has the keys of the convention', () => {
    const I = [1, 0, 0, 0, 1, 0, 0, 0, 1] as const;
    const text = writeMotion({ ...PICTURE, frames: 1, fps: 25 }, 0, 1.08, [
      { frame: 0, motion: I, correction: I, framing: I, mesh: null, residual: NaN },
    ]);
    expect(JSON.parse(text)).toEqual({
      clip: { width: 960, height: 540, frames: 1, fps: 25 },
      ref: 0,
      zoom: 1.08,
      frames: [{ frame: 0, motion: I, correction: I, framing: I, residual_px: null }],
    });
  });
});
