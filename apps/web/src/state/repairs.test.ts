import { groupDoubts, type Doubt } from '@lurn/core/doubt';
import { EMPTY_TRACK, sampleAt, withoutSamples, withSamples, type FramedSample } from '@lurn/core/track';
import {
  addTracker,
  FIRST_MOVER,
  newDocument,
  NEW_SPOT,
  spotsOf,
  trackOf,
  type ClipInfo,
  type ShotState,
  type Spot,
} from '@lurn/model';
import { bench, setBench, setDoubts, useBench } from './bench';
import {
  allIsFine,
  applyTaming,
  beginCarryOn,
  bridgeGap,
  carryOnAt,
  itIsFine,
  lookAt,
  moveJoin,
  nextDoubt,
  patchAt,
  pinPatch,
  previewTaming,
  takeImported,
  undoJoin,
} from './repairs';
import { openShot, shotDocument, shotState, undo } from './shot';

const INFO = { width: 640, height: 360, frames: 40 } as ClipInfo;
const spot = (id: string): Spot => ({
  ...NEW_SPOT,
  ...{
    id,
    name: id,
    mover: FIRST_MOVER.id,
    colour: 0,
    patch: [15, 15],
    reach: [32, 24],
    minConfidence: 0.15,
  },
});
const samples = (state: FramedSample['state'] = 'tracked') =>
  Array.from({ length: 40 }, (_, f): FramedSample => ({
    frame: f,
    x: 100 + 2 * f,
    y: 80,
    confidence: 0.95,
    state,
  }));
const doubt = (from: number, to: number): Doubt => ({
  ...{ spot: 'a', reason: 'weak-match', from, to, worst: from, severity: 0.5, sentence: '' },
});

beforeEach(() => {
  let state: ShotState = { document: newDocument(INFO), measured: {} };
  state = addTracker(state, spot('a'), withSamples(EMPTY_TRACK, samples()));
  state = addTracker(state, spot('b'), withSamples(EMPTY_TRACK, samples()));
  openShot(state);
  useBench.setState({
    ...{
      info: INFO,
      frame: 0,
      selected: ['a'],
      span: null,
      doubts: [],
      doubtAt: null,
      tool: { id: 'mark' },
      preview: null,
    },
  });
});
const at = (id: string, frame: number) => sampleAt(trackOf(shotState(), id), frame);

describe('bridging', () => {
  it('bridges the chosen span of the selected spot, as one step', () => {
    setBench({ span: { from: 10, to: 14 } });
    bridgeGap();
    expect(at('a', 12)).toMatchObject({ state: 'bridged', x: expect.closeTo(124, 3) });
    expect(at('a', 15)!.state).toBe('tracked');
    expect(at('b', 12)!.state).toBe('tracked');
    undo();
    expect(at('a', 12)!.state).toBe('tracked');
  });

  it('bridges the gap that the playhead is in when no span is chosen', () => {
    const gap = withoutSamples(trackOf(shotState(), 'a'), 20, 24);
    openShot({ ...shotState(), measured: { ...shotState().measured, a: gap } });
    setBench({ frame: 22 });
    bridgeGap();
    expect([19, 20, 24, 25].map((f) => at('a', f)!.state)).toEqual([
      'tracked',
      'bridged',
      'bridged',
      'tracked',
    ]);
  });

  it('leaves the track as it is where there is nothing to bridge', () => {
    const before = shotState();
    setBench({ frame: 5 });
    bridgeGap();
    expect(trackOf(shotState(), 'a')).toBe(trackOf(before, 'a'));
  });
});

describe('doubts', () => {
  it('are gone through in order, round and round, and said to be fine', () => {
    setDoubts({ spotDoubts: [doubt(5, 8), doubt(20, 22)] });
    nextDoubt(1);
    expect(bench()).toMatchObject({
      doubtAt: { from: 5 },
      frame: 5,
      station: 'repair',
      span: { from: 5, to: 8 },
    });
    nextDoubt(1);
    nextDoubt(1);
    expect(bench().doubtAt).toMatchObject({ from: 5 });
    itIsFine();
    expect(shotDocument().accepted).toEqual([{ spot: 'a', reason: 'weak-match', from: 5, to: 8 }]);
    expect(bench()).toMatchObject({ doubtAt: { from: 20 }, frame: 20 });
    undo();
    expect(shotDocument().accepted).toEqual([]);
  });

  it('of one cause are said to be fine together, as one step', () => {
    setDoubts({ spotDoubts: [doubt(5, 8), doubt(20, 22), { ...doubt(30, 31), spot: 'b' }] });
    const [first, second] = groupDoubts(bench().doubts);
    lookAt(first.lead);
    allIsFine(first);
    expect(shotDocument().accepted).toHaveLength(2);
    expect(bench().doubtAt).toBe(second.lead);
    undo();
    expect(shotDocument().accepted).toEqual([]);
  });
});

describe('carrying on elsewhere', () => {
  it('puts the patch on the other feature, keeps the path, and drops what lay beyond', () => {
    setBench({ frame: 10 });
    beginCarryOn();
    expect(bench().tool).toEqual({ id: 'carry-on', spot: 'a' });
    carryOnAt('a', { x: 180, y: 60 });
    const [a] = spotsOf(shotDocument());
    expect(a.joins).toEqual([{ frame: 10, dx: 60, dy: -20, companion: 'b' }]);
    expect(at('a', 10)).toMatchObject({ x: 120, state: 'pinned' });
    expect(at('a', 11)).toBeNull();
    expect(patchAt(a, 10)).toEqual({ x: 180, y: 60 });
    expect(patchAt(a, 9)).toMatchObject({ x: 118, y: 80 });
    undo();
    expect(spotsOf(shotDocument())[0].joins).toEqual([]);
    expect(at('a', 11)).not.toBeNull();
  });

  it('moves a patch by hand without moving the offset, and a join along time', () => {
    setBench({ frame: 10 });
    carryOnAt('a', { x: 180, y: 60 });
    pinPatch(spotsOf(shotDocument())[0], { x: 183, y: 61 });
    expect(at('a', 10)).toMatchObject({ x: 123, y: 81, state: 'pinned' });
    moveJoin('a', 10, 6);
    expect(spotsOf(shotDocument())[0].joins[0].frame).toBe(6);
    expect([at('a', 6)!.state, at('a', 10)!.state]).toEqual(['pinned', 'tracked']);
    moveJoin('a', 6, 30); // no sample there
    expect(spotsOf(shotDocument())[0].joins[0].frame).toBe(6);
    undoJoin('a', 6);
    expect(spotsOf(shotDocument())[0].joins).toEqual([]);
  });
});

describe('taming and importing', () => {
  it('shows what taming would do before it is applied', () => {
    const hand = samples('pinned').map((s) => ({ ...s, y: s.y + (s.frame % 2 ? 1 : -1) }));
    openShot({ ...shotState(), measured: { ...shotState().measured, a: withSamples(EMPTY_TRACK, hand) } });
    previewTaming(1);
    expect(at('a', 11)!.y).toBe(81);
    expect(Math.abs(sampleAt(bench().preview!.track, 11)!.y - 80)).toBeLessThan(0.3);
    applyTaming();
    expect(Math.abs(at('a', 11)!.y - 80)).toBeLessThan(0.3);
    expect(bench().preview).toBeNull();
    undo();
    expect(at('a', 11)!.y).toBe(81);
  });

  it('adds imported spots under free names, or replaces those of the same name', () => {
    const track = withSamples(EMPTY_TRACK, [{ frame: 3, x: 5, y: 6, confidence: 1, state: 'tracked' }]);
    takeImported([{ name: 'a', track }], false);
    expect(spotsOf(shotDocument()).map((s) => s.name)).toEqual(['a', 'b', 'a 2']);
    undo();
    takeImported([{ name: 'a', track }], true);
    expect(spotsOf(shotDocument())).toHaveLength(2);
    expect(at('a', 3)).toMatchObject({ x: 5 });
    expect(at('a', 4)).toBeNull();
  });
});
