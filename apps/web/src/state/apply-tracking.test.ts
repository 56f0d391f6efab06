import { sampleAt, withSamples, type FramedSample } from '@lurn/core/track';
import { removeTrackers, trackOf } from '@lurn/model';
import { toast } from 'sonner';
import { lying, openBench, shotWith, spot } from '../testing/open-bench';
import { bench, setBench } from './bench';
import { edit, shotState, undo } from './shot';
import { holdTracked, takeBetween, takeSteps } from './apply-tracking';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), success: jest.fn() } }));

const sample = (frame: number, x = 10 + frame): FramedSample => ({
  ...{ frame, x, y: 20, confidence: 0.9, state: 'tracked' },
});
const step = (
  frame: number,
  id: string,
  stopped: readonly { readonly id: string; readonly since: number }[] = [],
) => ({
  ...{ frame, done: frame, samples: [{ id, sample: sample(frame) }], stopped },
});
const framesOf = (id: string) => {
  const track = trackOf(shotState(), id);
  return Array.from({ length: 40 }, (_, f) => f).filter((f) => sampleAt(track, f));
};

beforeEach(() => openBench(shotWith([spot('a'), lying(10, 20, 0, 0)], [spot('b'), lying(50, 60, 0, 12)])));

it('a batch of frames becomes samples, and the playhead goes with it', () => {
  setBench({ tracking: { from: 0, to: 9, frame: 0, done: 0, total: 9, startedAt: 0 } });
  takeSteps('spot', [step(1, 'a'), step(2, 'a')], 9);
  expect(framesOf('a')).toEqual([0, 1, 2]);
  expect(bench()).toMatchObject({ frame: 2, tracking: { frame: 2, done: 2 } });
});

it('what stopped loses what an earlier run had beyond, but for pins; what was deleted meanwhile stays so', () => {
  edit((s) => ({
    ...s,
    measured: { ...s.measured, b: withSamples(trackOf(s, 'b'), [{ ...sample(8), state: 'pinned' }]) },
  }));
  takeSteps('spot', [step(3, 'b', [{ id: 'b', since: 4 }])], 12);
  expect(framesOf('b')).toEqual([0, 1, 2, 3, 8]);
  edit((s) => removeTrackers(s, ['a']));
  takeSteps('spot', [step(4, 'a', [{ id: 'a', since: 5 }])], 12);
  expect(shotState().measured.a).toBeUndefined();
});

it('backwards, what lies before the stop is lost', () => {
  takeSteps('spot', [step(8, 'b', [{ id: 'b', since: 7 }])], 2);
  expect(framesOf('b')).toEqual([0, 1, 8, 9, 10, 11, 12]);
});

it('between two pins all is replaced, as one step, and what was not seen is told', () => {
  const [, b] = shotState().document.trackers;
  takeBetween(b, 2, 6, [sample(3), { ...sample(5), mismatch: 2 } as FramedSample], 1);
  expect(framesOf('b')).toEqual([0, 1, 2, 3, 5, 6, 7, 8, 9, 10, 11, 12]);
  expect(sampleAt(trackOf(shotState(), 'b'), 3)!.x).toBe(13);
  const told = '"b" tracked between frames 2 and 6; 1 frame seen from neither side, and coasted; on 1 the two sides disagree: see Doubts.'; // prettier-ignore
  expect(toast.success).toHaveBeenLastCalledWith(told, { id: 'track' });
  undo();
  expect(framesOf('b')).toHaveLength(13);
});

it('a surface is held only where nothing else is marked', () => {
  const surface = { id: 'b', name: 'door', mover: 'mover-1' } as never;
  holdTracked([surface]);
  expect(shotState().document.held).toBeNull();
  // With the spots gone, the same surface is: it has more than two samples.
  edit((s) => ({
    measured: s.measured,
    document: {
      ...s.document,
      trackers: s.document.trackers.map((t) => ({ ...t, kind: 'surface' }) as never),
    },
  }));
  holdTracked([surface]);
  expect(shotState().document.held).toBe('mover-1');
});
