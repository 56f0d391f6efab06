import { openBench } from '../testing/open-bench';
import { setBench } from './bench';
import { cutHere, joined } from './cuts';
import { shotDocument, undo } from './shot';
import { takeNotesFile } from './notes';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), error: jest.fn(), success: jest.fn() } }));

beforeEach(() => openBench());

it('a cut is set on a frame and taken away again, each a step of undo; not before the first', () => {
  setBench({ frame: 12 });
  cutHere();
  setBench({ frame: 5 });
  cutHere();
  expect(shotDocument().cuts).toEqual([5, 12]);
  cutHere();
  expect(shotDocument().cuts).toEqual([12]);
  undo();
  expect(shotDocument().cuts).toEqual([5, 12]);
  setBench({ frame: 0 });
  cutHere();
  expect(shotDocument().cuts).toEqual([5, 12]);
});

it('those that were found are told once, in order with those set by hand', () => {
  expect(joined([30, 90], [12, 90])).toEqual([
    { frame: 12, own: true },
    { frame: 30, own: false },
    { frame: 90, own: false },
  ]);
});

it("a timeline's come with its notes and range, in one step", async () => {
  const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: 25, value });
  const clip = (from: number, length: number) => ({
    ...{ OTIO_SCHEMA: 'Clip.1', name: 'valley', markers: [] },
    source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(from), duration: time(length) },
  });
  const tracks = {
    OTIO_SCHEMA: 'Stack.1',
    children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children: [clip(4, 6), clip(20, 10)] }],
  };
  const text = JSON.stringify({ OTIO_SCHEMA: 'Timeline.1', tracks });
  const file = Object.assign(new File([text], 'cut.otio'), { text: () => Promise.resolve(text) });
  setBench({ times: Float64Array.from({ length: 40 }, (_, i) => i / 25) });
  await takeNotesFile(file);
  expect(shotDocument()).toMatchObject({ cuts: [20], range: { from: 4, to: 29 }, notes: [] });
  undo();
  expect(shotDocument().cuts).toEqual([]);
});
