import { withSamples } from '@lurn/core/track';
import { setRange } from '@lurn/model';
import { lying, openBench, shotWith, spot } from '../testing/open-bench';
import { edit } from './shot';
import { pinsRound, targetsOf } from './track-targets';

const pinned = (...frames: readonly number[]) =>
  withSamples(
    lying(10, 10, 0, 39),
    frames.map((frame) => ({ frame, x: 10, y: 10, confidence: 1, state: 'pinned' as const })),
  );

beforeEach(() => openBench(shotWith([spot('a'), pinned(12, 30)], [spot('b'), pinned(20)])));

it('goes to the ends of the range, and beyond it from there', () => {
  expect(targetsOf('both', 10, [])).toEqual([39, 0]);
  edit((s) => setRange(setRange(s, 'from', 5), 'to', 30));
  expect([targetsOf('end', 10, []), targetsOf('start', 10, [])]).toEqual([[30], [5]]);
  expect([targetsOf('end', 30, []), targetsOf('start', 5, [])]).toEqual([[39], [0]]);
});

it('goes nowhere from the first and the last frame', () => {
  expect(targetsOf('end', 39, [])).toEqual([]);
  expect(targetsOf('next', 39, [])).toEqual([]);
  expect(targetsOf('previous', 0, [])).toEqual([]);
  expect(targetsOf('both', 39, [])).toEqual([0]);
});

it('goes to the next pin of what is tracked', () => {
  expect(targetsOf('pin', 12, [{ id: 'a' }])).toEqual([30]);
  expect(targetsOf('pin', 12, [{ id: 'a' }, { id: 'b' }])).toEqual([20]);
  expect(targetsOf('pin', 30, [{ id: 'a' }, { id: 'none' }])).toEqual([]);
});

it('finds the pins on both sides of a frame, and before the last one', () => {
  const track = pinned(12, 30);
  // The first sample of a track that lies is a pin.
  expect([5, 12, 20, 30].map((f) => pinsRound(track, f))).toEqual([
    [0, 12],
    [12, 30],
    [12, 30],
    [12, 30],
  ]);
  expect(pinsRound(track, 35)).toBeNull();
  expect(pinsRound(lying(1, 1, 4, 9), 4)).toBeNull();
});
