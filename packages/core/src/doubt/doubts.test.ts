import { solveMotion } from '../solve/solve-motion.js';
import { edgeDoubts, judgeSpots, type AcceptedDoubt, type DoubtedSpot } from './doubts.js';
import { withoutSamples } from '../track/measured.js';
import { EMPTY_TRACK, withSamples, type FramedSample, type Track } from '../track/track.js';

jest.mock('../solve/solve-motion.js', () => {
  const real = jest.requireActual<{ solveMotion: typeof solveMotion }>('../solve/solve-motion.js');
  return { ...real, solveMotion: jest.fn(real.solveMotion) };
});

const PICTURE = { width: 640, height: 360 };
const sample = (frame: number, x: number, y: number, more: Partial<FramedSample> = {}): FramedSample => ({
  ...{ frame, x, y, confidence: 0.97, state: 'tracked' },
  ...more,
});
/** A place that shakes with the camera: three spots on one thing. */
const path = (x: number, y: number, frames = 60): Track =>
  withSamples(
    EMPTY_TRACK,
    Array.from({ length: frames }, (_, f) => sample(f, x + 5 * Math.sin(f / 3), y + 3 * Math.cos(f / 4))),
  );
const findDoubts = (
  spots: readonly DoubtedSpot[],
  picture: typeof PICTURE,
  accepted?: readonly AcceptedDoubt[],
) => judgeSpots(spots, picture, accepted).doubts;
const spot = (id: string, track: Track, mover = ''): DoubtedSpot => ({
  id,
  name: id,
  mover,
  patch: [15, 15],
  track,
});
const three = (third: Track) => [spot('a', path(200, 100)), spot('b', path(420, 120)), spot('c', third)];

describe('doubts', () => {
  it('are none on a clean track', () => {
    expect(findDoubts(three(path(300, 250)), PICTURE)).toEqual([]);
  });

  it('find a falling match as one span, with its worst frame', () => {
    const weak = [20, 21, 23, 24].map((f) =>
      sample(f, 300 + 5 * Math.sin(f / 3), 250 + 3 * Math.cos(f / 4), { confidence: f === 23 ? 0.2 : 0.6 }),
    );
    const [doubt, ...rest] = findDoubts(three(withSamples(path(300, 250), weak)), PICTURE);
    expect(rest).toEqual([]);
    expect(doubt).toMatchObject({ spot: 'c', reason: 'weak-match', from: 20, to: 24, worst: 23 });
    expect(doubt.sentence).toMatch(/0\.20 on frames 20 to 24/);
  });

  it('find a jump against the motion before and after', () => {
    const alone = [spot('c', withSamples(path(300, 250), [sample(30, 340, 250)]))];
    const doubts = findDoubts(alone, PICTURE).filter((d) => d.reason === 'jump');
    expect(doubts[0].worst).toBe(30);
    expect(doubts[0].severity).toBeGreaterThan(0.5);
  });

  it('of three spots blame the one whose path leaves the others, and none where that does not tell', () => {
    const places = { a: [200, 100], b: [420, 120], c: [300, 250] } as const;
    const off = (id: 'a' | 'b' | 'c', first: number, last: number, by: (i: number) => number) => {
      const [x, y] = places[id];
      const wrong = Array.from({ length: last - first + 1 }, (_, i) =>
        sample(first + i, x + by(i) + 5 * Math.sin((first + i) / 3), y + 3 * Math.cos((first + i) / 4)),
      );
      const all = Object.entries(places).map(([name, [px, py]]) => spot(name, path(px, py)));
      const spots = all.map((s) => (s.id === id ? { ...s, track: withSamples(s.track, wrong) } : s));
      return findDoubts(spots, PICTURE).filter((d) => d.reason === 'disagrees');
    };
    for (const id of ['a', 'b', 'c'] as const)
      for (const [first, last] of [
        [30, 30],
        [0, 0],
        [30, 49],
      ]) {
        const doubts = off(id, first, last, () => 6);
        expect(doubts.map((d) => [d.spot, d.from, d.to])).toEqual([[id, first, last]]);
      }
    const [slip] = off('b', 20, 39, (i) => 6 * Math.sin((Math.PI * i) / 20) ** 2);
    // One that is only predicted there is no fourth.
    const guess = withSamples(path(500, 300), [sample(30, 500, 300, { state: 'coasted' })]);
    const jumped = three(path(300, 250)).map((s) => (s.id === 'a' ? { ...s, track: withSamples(s.track, [sample(30, 212, 100)]) } : s)); // prettier-ignore
    const told = findDoubts([...jumped, spot('d', guess)], PICTURE).filter((d) => d.reason === 'disagrees');
    expect(told.map((d) => d.spot)).toEqual(['a']);
    expect(slip.sentence).toMatch(/^One of a, b and c is off on frames \d+ to \d+: a fourth spot/);
  });

  it('find a spot that slips from where the others of its group put it, and blame the right one', () => {
    const slipped = Array.from({ length: 15 }, (_, i) =>
      sample(35 + i, 300 + 5 * Math.sin((35 + i) / 3) + 0.4 * i, 250 + 3 * Math.cos((35 + i) / 4)),
    );
    const four = [...three(withSamples(path(300, 250), slipped)), spot('d', path(500, 300))];
    const doubts = findDoubts(four, PICTURE).filter((d) => d.reason === 'disagrees');
    expect(doubts.map((d) => d.spot)).toEqual(['c']);
    expect(doubts[0].to).toBe(49);
    expect(doubts[0].from).toBeGreaterThan(35);
    const { residuals } = judgeSpots(four, PICTURE);
    expect(residuals.a).toBeLessThan(0.5);
    expect(residuals.c).toBeGreaterThan(1);
  });

  it('do not hold spots of other groups against it', () => {
    const railing = spot(
      'r',
      withSamples(
        path(100, 300),
        Array.from({ length: 60 }, (_, f) => sample(f, 100 + 3 * f, 300)),
      ),
      'railing',
    );
    expect(
      findDoubts([...three(path(300, 250)), railing], PICTURE).filter((d) => d.reason === 'disagrees'),
    ).toEqual([]);
  });

  it('tell of coasting, of passes that disagree and of the edge, each with its reason', () => {
    const coasted = withSamples(
      path(300, 250),
      [20, 21, 22].map((f) => ({ ...sample(f, 300, 250), state: 'coasted' as const, confidence: 0.3 })),
    );
    expect(findDoubts([spot('c', coasted)], PICTURE).map((d) => d.reason)).toContain('coasted');
    const apart = withSamples(path(300, 250), [
      sample(40, 300 + 5 * Math.sin(40 / 3), 250 + 3 * Math.cos(10), { mismatch: 2.5 }),
    ]);
    expect(findDoubts([spot('c', apart)], PICTURE)).toMatchObject([{ reason: 'passes-disagree', worst: 40 }]);
    const edge = findDoubts([spot('c', path(12, 250))], PICTURE);
    expect(edge.every((d) => d.reason === 'near-edge')).toBe(true);
    expect(edge.length).toBeGreaterThan(0);
  });

  it('come worst first, and are gone once they are said to be fine', () => {
    const bad = withSamples(path(300, 250), [
      sample(30, 340, 250),
      sample(10, 300 + 5 * Math.sin(10 / 3), 250 + 3 * Math.cos(2.5), { confidence: 0.7 }),
    ]);
    const doubts = findDoubts([spot('c', bad)], PICTURE);
    expect(doubts.length).toBeGreaterThan(1);
    for (let i = 1; i < doubts.length; i++)
      expect(doubts[i].severity).toBeLessThanOrEqual(doubts[i - 1].severity);
    const left = findDoubts([spot('c', bad)], PICTURE, [doubts[0]]);
    expect(left).toEqual(doubts.slice(1));
  });

  it('do not call a coasted stretch a disagreement as well', () => {
    const astray = Array.from({ length: 8 }, (_, i) =>
      sample(20 + i, 330, 280, { state: 'coasted', confidence: 0.3 }),
    );
    const doubts = findDoubts(
      [...three(withSamples(path(300, 250), astray)), spot('d', path(500, 300))],
      PICTURE,
    );
    expect(doubts.map((d) => d.reason)).not.toContain('disagrees');
    expect(doubts.map((d) => d.reason)).toContain('coasted');
  });

  it('say nothing of frames that have no sample', () => {
    expect(findDoubts(three(withoutSamples(path(300, 250), 20, 40)), PICTURE)).toEqual([]);
  });
});

describe('the cost', () => {
  it('is one solve a mover, however many spots tell of it', () => {
    jest.mocked(solveMotion).mockClear();
    const many = Array.from({ length: 60 }, (_, i) =>
      spot(`s${i}`, path(100 + 7 * i, 60 + 3 * i, 12), i % 2 ? 'ridge' : 'railing'),
    );
    const { residuals } = judgeSpots(many, PICTURE);
    expect(solveMotion).toHaveBeenCalledTimes(2);
    expect(Object.keys(residuals)).toHaveLength(60);
    expect(Math.max(...Object.values(residuals))).toBeLessThan(0.01);
  });
});

describe('edges', () => {
  const tell = (worst: number, where: string) => `${worst} of ${where}`;

  it('are doubts stretch by stretch, each with its worst frame', () => {
    const doubts = edgeDoubts([3, 4, 5, 40, 41], (f) => (f === 4 ? 0.05 : 0.01), tell);
    expect(doubts.map(({ reason, from, to, worst }) => [reason, from, to, worst])).toEqual([
      ['edge-shows', 3, 5, 4],
      ['edge-shows', 40, 41, 40],
    ]);
    expect(doubts[0].severity).toBeGreaterThan(doubts[1].severity);
    expect(doubts[0].sentence).toMatch(/^4 of frames 3 to 5/);
  });

  it('that were found to be fine are gone', () => {
    const accepted = [{ spot: '', reason: 'edge-shows' as const, from: 3, to: 5 }];
    expect(edgeDoubts([3, 4, 5, 40], () => 0.1, tell, accepted).map((d) => d.from)).toEqual([40]);
    expect(edgeDoubts([], () => 0.1, tell)).toEqual([]);
  });
});
