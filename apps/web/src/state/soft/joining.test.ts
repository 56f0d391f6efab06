import {
  softAt,
  softSample,
  withSamples,
  withSoftSamples,
  EMPTY_TRACK,
  type SoftVertex,
} from '@lurn/core/track';
import { addTracker, removeTrackers, setMeasured, softOf, softTrackOf, toTrack } from '@lurn/model';
import { toast } from 'sonner';
import { lying, openBench, spot } from '../../testing/open-bench';
import { setBench } from '../bench';
import { joinedCount, joinTrackers, letGo } from './joining';
import { bridgeGap } from '../repairs';
import { edit, shotDocument, shotState, undo } from '../shot';
import { drawSoft } from './soft';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), warning: jest.fn(), success: jest.fn() } }));

const only = () => softOf(shotDocument())[0];
const mesh = () => softTrackOf(shotState(), only().id);
const vertexAt = (x: number, y: number) =>
  only().vertices.findIndex(([a, b]) => Math.hypot(a - x, b - y) < 0.01);
const put = (id: string, track: typeof EMPTY_TRACK) => edit((s) => addTracker(s, spot(id), track));
/** On a frame the mesh lies moved by (10, 5), some of it not seen. */
const measure = (frame: number, hidden: (v: number) => boolean = () => false) => {
  const { id, vertices } = only();
  const there = vertices.map(([x, y], v): SoftVertex | null =>
    hidden(v) ? null : { x: x + 10, y: y + 5, confidence: 0.9, state: 'tracked' },
  );
  edit((s) => setMeasured(s, { [id]: withSoftSamples(softTrackOf(s, id), [softSample(frame, there)]) }));
};

beforeEach(() => {
  jest.clearAllMocks();
  openBench();
  setBench({ frame: 3, points: [], span: null, doubtAt: null });
  drawSoft([{ x: 100, y: 80 }, { x: 300, y: 80 }, { x: 300, y: 200 }, { x: 100, y: 200 }], false); // prettier-ignore
});

it('spots that lie on a mesh join it as points, in one step, and lead it when it is tracked', () => {
  put('on', lying(183.3, 121.7, 0, 9));
  put('off', lying(500, 300, 0, 9));
  setBench({ selected: [only().id] });
  const before = only().vertices.length;
  joinTrackers();
  expect(only().joined).toEqual([{ tracker: 'on', x: 183.3, y: 121.7 }]);
  expect(only().vertices).toHaveLength(before + 1);
  expect(vertexAt(183.3, 121.7)).toBeGreaterThanOrEqual(0);
  const { joined } = toTrack('soft', only(), shotState());
  expect(joined).toMatchObject([{ at: { x: 183.3, y: 121.7 }, track: { start: 0 } }]);
  joinTrackers();
  expect(only().joined).toHaveLength(1);
  expect(jest.mocked(toast.warning).mock.lastCall![0]).toContain('None of them');
  undo();
  expect(only().joined).toBeUndefined();
  expect(only().vertices).toHaveLength(before);
});

it('one that is not known on its own frame is carried back by the mesh', () => {
  measure(7);
  put(
    'late',
    withSamples(EMPTY_TRACK, [{ frame: 7, x: 193.3, y: 126.7, confidence: 0.9, state: 'tracked' }]),
  );
  setBench({ selected: [only().id] });
  joinTrackers();
  const [{ x, y }] = only().joined!;
  expect(Math.hypot(x - 183.3, y - 121.7)).toBeLessThan(0.05);
});

it('what was let go of, or is there no more, leads it no more; its point stays', () => {
  put('on', lying(183.3, 121.7, 0, 9));
  setBench({ selected: [only().id, 'on'] });
  joinTrackers();
  const count = only().vertices.length;
  edit((s) => removeTrackers(s, ['on']));
  expect(joinedCount(only().joined)).toBe(0);
  expect(toTrack('soft', only(), shotState()).joined).toEqual([]);
  undo();
  setBench({ selected: [only().id] });
  letGo();
  expect(only().joined).toBeUndefined();
  expect(only().vertices).toHaveLength(count);
});

it('says why nothing joins', () => {
  setBench({ selected: [only().id] });
  joinTrackers();
  expect(jest.mocked(toast.warning).mock.lastCall![0]).toContain('Nothing is tracked that could join');
  setBench({ selected: [] });
  joinTrackers();
  expect(jest.mocked(toast.warning).mock.lastCall![0]).toContain('Select a soft surface');
});

it('the gap that its points have on a frame is bridged, in one step', () => {
  for (const f of [10, 11, 12, 13]) measure(f, (v) => v === 2 && (f === 11 || f === 12));
  setBench({ selected: [only().id], frame: 11 });
  bridgeGap();
  expect(softAt(mesh(), 11)!.vertices[2]!.state).toBe('bridged');
  expect(softAt(mesh(), 12)!.vertices[2]!.x).toBeCloseTo(only().vertices[2][0] + 10, 0);
  expect(softAt(mesh(), 11)!.vertices[3]!.state).toBe('tracked');
  undo();
  expect(softAt(mesh(), 11)!.vertices[2]).toBeNull();
  setBench({ frame: 10 });
  bridgeGap();
  expect(jest.mocked(toast.warning).mock.lastCall![0]).toContain('None of its points');
});
