import { readFileSync } from 'node:fs';
import { fromJson, toJson, type MeasuredJson } from '@lurn/core/formats';
import type { GoalKey } from '@lurn/core/plan';
import {
  EMPTY_SOFT_TRACK,
  softAt,
  softSample,
  withSoftSamples,
  measuredEnd,
  sampleAt,
  withSamples,
  EMPTY_TRACK,
} from '@lurn/core/track';
import { FIRST_MOVER, NEW_DELIVERY, NEW_FRAMING, NEW_GOAL, newDocument, type ShotState } from './document.js';
import { comparedBy } from './delivered.js';
import {
  addDelivery,
  addTracker,
  changeDelivery,
  changeDocument,
  changeSpot,
  clampSize,
  forDelivery,
  moveGoalKey,
  moverLabel,
  nextColour,
  nextName,
  removeDelivery,
  removeGoalKey,
  removeTrackers,
  setAt,
  setGoalKey,
  setMeasured,
  setMover,
  setRange,
  addArea,
  addRegroup,
  setAreaKeys,
} from './edits.js';
import { mergeStates } from './merge.js';
import { migrateMeasured, type TrackColumns3 } from './migrations/migrate-measured.js';
import { parseDocument } from './parse.js';
import { spotsOf, trackOf } from './trackers/kinds/find.js';
import { shotRequest } from './request.js';
import { NEW_SPOT, type Spot } from './trackers/index.js';

const CLIP = { width: 1280, height: 720, frames: 180 };
const spot = (id: string, name = id): Spot => ({
  ...NEW_SPOT,
  mover: FIRST_MOVER.id,
  id,
  name,
  colour: 0,
  patch: [15, 15],
  reach: [32, 24],
  minConfidence: 0.55,
});
const track = (x: number) =>
  withSamples(EMPTY_TRACK, [{ frame: 0, x, y: 2, confidence: 1, state: 'pinned' }]);
const empty: ShotState = { document: newDocument(CLIP), measured: {} };
const two = addTracker(addTracker(empty, spot('a'), track(1)), spot('b'), track(5));

const keyAt = (frame: number, change: Partial<GoalKey> = {}): GoalKey => ({
  frame,
  goal: 'still',
  amounts: NEW_GOAL.amounts,
  easing: 'smooth',
  ...change,
});

describe('documents', () => {
  it('pass through parsing unchanged', () => {
    expect(parseDocument(JSON.parse(JSON.stringify(two.document)), CLIP)).toEqual(two.document);
  });

  const fixture = (name: string): unknown =>
    JSON.parse(readFileSync(new URL(`migrations/fixtures/${name}.json`, `file://${__dirname}/`), 'utf8'));

  it('of version 1 open as they were', () => {
    const { trackers, ...rest } = parseDocument(fixture('version-1'), CLIP);
    expect(trackers).toEqual([
      expect.objectContaining({
        kind: 'spot',
        id: 's-1',
        name: 'gable',
        minConfidence: 0.5,
        allow: 'similarity',
      }),
      expect.objectContaining({ id: 's-2', colour: 3, joins: [], role: 'both', mover: 'mover-1' }),
    ]);
    expect(rest).toMatchObject({
      version: 10,
      notes: [],
      cuts: [],
      rowByRow: false,
      regroups: [],
      range: { from: 4, to: 120 },
      ref: 9,
      goal: { goal: 'still', amounts: { x: 1, y: 1, rotation: 0, scale: 1 } },
      framing: { mode: 'none', zoom: 1.2, shiftX: 3, shiftY: -4 },
      edges: { mode: 'colour', colour: '#000000' },
      deliveries: [{ settings: { crf: 23 }, size: null }],
    });
  });

  it('of version 2 open as they were, each group a mover', () => {
    const document = parseDocument(fixture('version-2'), CLIP);
    expect(document.movers.map((m) => m.name)).toEqual(['', 'station']);
    const [gable, door, rail] = spotsOf(document);
    expect(gable.mover).toBe(door.mover);
    expect(rail.mover).not.toBe(door.mover);
    expect(gable).toMatchObject({
      eye: { channel: 'green', detail: 2 },
      joins: [{ frame: 40, companion: 's-2' }],
    });
    expect(document).toMatchObject({
      held: null,
      framing: { mode: 'fit', zoom: 1 },
      goal: { amounts: { y: 0 } },
    });
    expect(document.accepted).toHaveLength(1);
  });

  it('of version 3 open as they were', () => {
    const old = fixture('version-3') as Record<string, unknown> & { spots: { id: string }[] };
    const document = parseDocument(old, CLIP);
    const { goal, range, ref, edges, accepted } = document;
    expect({ goal, range, ref, edges, accepted }).toEqual({
      ...{ goal: old.goal, range: old.range, ref: old.ref, edges: old.edges, accepted: old.accepted },
    });
    expect(document.framing).toEqual({ mode: 'breathing', zoom: 1.05, rate: 0.08, shiftX: 5, shiftY: 0 });
    expect(document.deliveries).toEqual([
      { ...NEW_DELIVERY, size: { width: 1080, height: 1920 }, settings: { crf: 14 } },
    ]);
    old.spots.forEach((spot, i) => {
      const { group: _group, ...rest } = spot as unknown as Record<string, unknown>;
      expect(document.trackers[i]).toMatchObject(rest);
    });
    // What was migrated is what is stored from then on.
    expect(parseDocument(JSON.parse(JSON.stringify(document)), CLIP)).toEqual(document);
  });

  it('of version 4 open as they were, rows as they are', () => {
    const old = fixture('version-4') as Record<string, unknown>;
    const document = parseDocument(old, CLIP);
    const { deliveries: before } = old as unknown as { deliveries: object[] };
    const deliveries = before.map((d) => ({ ...d, base: true }));
    expect(document).toEqual({
      ...old,
      version: 10,
      notes: [],
      cuts: [],
      rowByRow: false,
      regroups: [],
      assets: [],
      deliveries,
    });
  });

  it('of version 5 open as they were, with the picture under layers that there are none of yet', () => {
    const old = fixture('version-5') as Record<string, unknown>;
    const document = parseDocument(old, CLIP);
    expect(document.deliveries.map((d) => d.base)).toEqual([true]);
    expect(document).toMatchObject({ version: 10, layers: [], assets: [], rowByRow: false, held: 'scene-2' });
  });

  it('of version 6 open as they were, their files graphics', () => {
    const old = fixture('version-6') as { assets: object[]; layers: { strokes?: object[] }[] };
    const document = parseDocument(old, CLIP);
    expect(document.assets).toEqual(old.assets.map((a) => ({ ...a, frames: 1, fps: 0 })));
    const [graphic, paint] = old.layers;
    expect(document.layers[0]).toEqual(graphic);
    const [clone, brush] = paint.strokes as { from: object | null }[];
    expect(document.layers[1]).toMatchObject({
      strokes: [{ ...clone, from: { ...clone.from, plate: null } }, brush],
    });
  });

  it('of version 7 open as they were, without a soft surface', () => {
    const old = fixture('version-7') as object;
    expect(parseDocument(old, CLIP)).toEqual({ ...old, version: 10, notes: [], cuts: [] });
  });

  it('of version 8 open as they were, without a note', () => {
    const old = { ...(fixture('version-7') as object), version: 8 };
    expect(parseDocument(old, CLIP)).toEqual({ ...old, version: 10, notes: [], cuts: [] });
  });

  it('and their tracks', () => {
    const tracks = fixture('tracks-version-3') as Record<string, TrackColumns3>;
    const [a, b] = ['s-1', 's-2'].map((id) => fromJson(migrateMeasured(tracks[id]) as MeasuredJson<'spot'>));
    expect(measuredEnd(a)).toBe(6);
    expect(sampleAt(a, 4)).toBeNull();
    expect(sampleAt(a, 5)).toEqual({ x: 414.1234, y: 221, confidence: 0.91, state: 'tracked' });
    expect(sampleAt(b, 1)).toMatchObject({ state: 'coasted', mismatch: 2.5 });
  });

  it('of meshes had their points’ columns by other names', () => {
    const now = toJson(withSoftSamples(EMPTY_SOFT_TRACK, [softSample(3, [{ x: 1, y: 2, confidence: 0.5, state: 'pinned' }, null])])); // prettier-ignore
    const { confidences: sure, states: how, ...values } = now.values as Record<string, unknown>;
    const old = { ...now, values: { ...values, sure, how } } as unknown as MeasuredJson;
    expect(migrateMeasured(old)).toEqual(now);
    expect(softAt(fromJson(migrateMeasured(old) as MeasuredJson<'soft'>), 3)!.vertices[0]).toMatchObject({ state: 'pinned', confidence: 0.5 }); // prettier-ignore
  });

  it('pass through parsing quickly however many trackers they have', () => {
    let many = empty;
    for (let i = 0; i < 500; i++) many = addTracker(many, spot(`s${i}`), track(i));
    expect(parseDocument(JSON.parse(JSON.stringify(many.document)), CLIP).trackers).toHaveLength(500);
  });

  it.each([
    [{ ref: 180 }, /document\.ref must be a number from 0 to 179, not 180/],
    [{ ref: 1.5 }, /document\.ref must be a whole number/],
    [{ range: { from: 9, to: 3 } }, /in point after its out point/],
    [{ framing: { ...NEW_FRAMING, zoom: -1 } }, /document\.framing\.zoom must be/],
    [{ deliveries: [{ ...NEW_DELIVERY, size: { width: 1281, height: 720 } }] }, /size\.width must be even/],
    [{ deliveries: [] }, /deliveries has no entry/],
    [{ held: 'gone' }, /document\.held names a mover that is not there/],
    [{ areas: [{}] }, /document\.areas\[0\]\.id must be an id/],
    [{ edges: { mode: 'colour', colour: 'red' } }, /document\.edges\.colour must be a colour/],
    [{ trackers: [spot('a'), spot('a')] }, /two trackers with one id/],
    [{ trackers: [{ ...spot('a'), name: '' }] }, /document\.trackers\[0\]\.name must be a text/],
    [
      { trackers: [{ ...spot('a'), patch: [0, 3] }] },
      /trackers\[0\]\.patch must be two whole numbers of pixels from 3 to 500/,
    ],
    [
      { trackers: [{ ...spot('a'), kind: 'cloud' }] },
      /document\.trackers has an entry whose kind is not one of spot/,
    ],
    [{ trackers: [{ ...spot('a'), mover: 'gone' }] }, /trackers\[0\]\.mover names a mover that is not there/],
    [{ trackers: [{ ...spot('a'), eye: null }] }, /trackers\[0\]\.eye is not an object/],
    [{ colourful: true }, /document\.colourful is not known/],
    [{ goal: { ...NEW_GOAL, goal: 'fly' } }, /document\.goal\.goal must be one of still, calm, lock/],
    [{ goal: { ...NEW_GOAL, keys: [keyAt(5), keyAt(5)] } }, /document\.goal\.keys\[1\]\.frame is not after/],
    [{ deliveries: [{ ...NEW_DELIVERY, settings: { crf: NaN } }] }, /deliveries\[0\]\.settings\.crf/],
  ])('are refused with the place of the fault: %j', (change, message) => {
    expect(() => parseDocument({ ...two.document, ...change }, CLIP)).toThrow(message);
  });

  it.each([null, 4, [], 'x'])('that are no documents are refused: %j', (value) => {
    expect(() => parseDocument(value, CLIP)).toThrow(expect.objectContaining({ code: 'bad-document' }));
  });
});

describe('keyframes of the goal', () => {
  const frames = (state: ShotState) => state.document.goal.keys.map((k) => k.frame);
  const keyed = setGoalKey(setGoalKey(two, keyAt(40)), keyAt(10, { goal: 'calm' }));

  it('stay in order and stand once on a frame', () => {
    expect(frames(keyed)).toEqual([10, 40]);
    expect(frames(setGoalKey(keyed, keyAt(10)))).toEqual([10, 40]);
    expect(frames(moveGoalKey(keyed, 10, 60))).toEqual([40, 60]);
    expect(frames(moveGoalKey(keyed, 10, 40))).toEqual([40]);
    expect(moveGoalKey(keyed, 11, 40)).toBe(keyed);
  });

  it('give their goal to the whole shot when the last one goes', () => {
    const one = removeGoalKey(keyed, 40);
    expect(frames(one)).toEqual([10]);
    expect(removeGoalKey(one, 10).document.goal).toMatchObject({ goal: 'calm', keys: [] });
  });

  it('are set where something is changed once there is one, and not before', () => {
    const half = { goal: 'lock' as const, amounts: { x: 0.5, y: 1, rotation: 1, scale: 1 } };
    expect(setAt(two, 7, half).document.goal).toMatchObject({ ...half, keys: [] });
    const changed = setAt(keyed, 25, half);
    expect(frames(changed)).toEqual([10, 25, 40]);
    expect(changed.document.goal.keys[1]).toMatchObject(half);
  });
});

describe('what the solve is asked', () => {
  it('leaves out spots that are not used or have no track', () => {
    const state = changeSpot(addTracker(two, spot('c'), track(2)), 'a', { used: false, role: 'turn' });
    const { c: _c, ...measured } = state.measured;
    const info = { ...CLIP, pixelAspect: 1, fps: 25 } as Parameters<typeof shotRequest>[1];
    const request = shotRequest({ ...state, measured }, info);
    expect(request.spots.map((s) => [s.id, s.role])).toEqual([['b', 'both']]);
    expect(request).toMatchObject({ fps: 25, frames: 180, from: 0, to: 179, held: '' });
  });

  it('is about what is held alone, where something is', () => {
    const far = setMover(two, 'b', 'far ridge');
    const held = far.document.movers[1].id;
    const info = { ...CLIP, pixelAspect: 1, fps: 25 } as Parameters<typeof shotRequest>[1];
    const request = shotRequest(changeDocument(far, { held }), info);
    expect(request.held).toBe(held);
    expect(request.spots.map((s) => [s.id, s.mover])).toEqual([['b', 'far ridge']]);
  });
});

describe('edits', () => {
  it('share what they do not change', () => {
    const renamed = changeSpot(two, 'a', { name: 'gable' });
    expect(renamed.measured).toBe(two.measured);
    expect(renamed.document.trackers[1]).toBe(two.document.trackers[1]);
    expect(two.document.trackers[0].name).toBe('a');
  });

  it('delete a spot with its track', () => {
    const one = removeTrackers(two, ['a']);
    expect(one.document.trackers.map((s) => s.id)).toEqual(['b']);
    expect(Object.keys(one.measured)).toEqual(['b']);
  });

  it('give tracks only to spots that are there', () => {
    expect(setMeasured(two, { gone: track(9) })).toBe(two);
    expect(trackOf(setMeasured(two, { b: track(9) }), 'b').values.x[0]).toBe(9);
  });

  it('put spots on movers by name, and drop movers that nothing is on', () => {
    const near = setMover(setMover(two, 'a', 'railing'), 'b', 'railing');
    expect(near.document.movers).toEqual([FIRST_MOVER, { id: 'mover-2', name: 'railing' }]);
    expect(moverLabel(near.document, 'mover-2')).toBe('railing');
    expect(moverLabel(two.document, FIRST_MOVER.id)).toBe('a, b');
    const back = setMover(setMover(near, 'a', ''), 'b', 'far ridge');
    expect(back.document.movers.map((m) => m.name)).toEqual(['', 'far ridge']);
  });

  it('keep in before out', () => {
    const moved = setRange(setRange(two, 'to', 40), 'from', 60);
    expect(moved.document.range).toEqual({ from: 60, to: 60 });
    expect(setRange(moved, 'to', 10).document.range).toEqual({ from: 10, to: 10 });
  });

  it('name and colour spots apart', () => {
    expect(nextName(addTracker(empty, spot('x', 'A'), track(0)).document)).toBe('B');
    expect(nextColour(two.document)).toBe(1);
    expect(clampSize('patch', [0.2, 9.6])).toEqual([3, 10]);
  });
});

describe('merging two sides', () => {
  const names = (state: ShotState) => state.document.trackers.map((t) => t.name);

  it('keeps what either changed', () => {
    const mine = setMeasured(changeSpot(two, 'a', { name: 'mine' }), { b: track(7) });
    const theirs = changeDocument(addTracker(two, spot('c'), track(3)), { ref: 30 });
    const merged = mergeStates(two, mine, theirs);
    expect(names(merged)).toEqual(['mine', 'b', 'c']);
    expect(merged.document.ref).toBe(30);
    expect(trackOf(merged, 'b').values.x[0]).toBe(7);
    expect(trackOf(merged, 'c').values.x[0]).toBe(3);
  });

  it('keeps areas whole whatever the sides did to their keys, and all that was said of one frame', () => {
    const shape = (n: number) => Array.from({ length: n }, (_, i) => [i, i * i] as const);
    const key = (frame: number, n = 3) => ({ frame, shape: shape(n) });
    const area = { id: 'x', name: 'hand', kind: 'ignore', smooth: false, rides: null } as const;
    const base = addArea(two, { ...area, keys: [key(0), key(20)] });
    const keysOf = (a: ShotState, b: ShotState) =>
      mergeStates(base, a, b).document.areas[0].keys.map((k) => [k.frame, k.shape.length]);
    const moved = (...keys: ReturnType<typeof key>[]) => setAreaKeys(base, 'x', keys);
    expect(keysOf(moved(key(0), key(20), key(30)), moved(key(0), key(10), key(20)))).toEqual([
      [0, 3],
      [10, 3],
      [20, 3],
      [30, 3],
    ]);
    // Each took away the key that the other kept; one gave it one more corner.
    expect(keysOf(moved(key(0)), moved(key(20)))).toEqual([[0, 3]]);
    expect(keysOf(moved(key(0, 4), key(20, 4)), moved(key(0), key(20), key(30)))).toEqual([
      [0, 4],
      [20, 4],
    ]);
    const word = { frame: 5, shape: shape(4) };
    const mine = addRegroup(addRegroup(two, word, 'scene-1'), word, null);
    const theirs = changeDocument(two, { ref: 30 });
    for (const merged of [mergeStates(two, mine, theirs), mergeStates(two, theirs, mine)]) {
      expect(merged.document.regroups.map((r) => r.to)).toEqual(['scene-1', 'drawn-1']);
      expect(merged.document.ref).toBe(30);
    }
  });

  it('joins changes of one spot, and of one goal, field by field', () => {
    const eye = { ...NEW_SPOT.eye, detail: 2 };
    const mine = changeSpot(changeSpot(two, 'a', { name: 'gable' }), 'a', { eye });
    const soft = { ...NEW_SPOT.eye, soften: 1 };
    const theirs = changeSpot(changeSpot(two, 'a', { patch: [20, 20] }), 'a', { eye: soft });
    expect(spotsOf(mergeStates(two, mine, theirs).document)[0]).toMatchObject({
      name: 'gable',
      patch: [20, 20],
      eye: { detail: 2, soften: 1 },
    });
    const amounts = (change: object) =>
      changeDocument(two, { goal: { ...NEW_GOAL, amounts: { ...NEW_GOAL.amounts, ...change } } });
    expect(
      mergeStates(two, amounts({ x: 0.5 }), amounts({ rotation: 0 })).document.goal.amounts,
    ).toMatchObject({
      x: 0.5,
      rotation: 0,
    });
  });

  it('what two sides name alike is told apart, and keeps what was measured of it', () => {
    const one = (id: string, name: string, x: number) => addTracker(two, spot(id, name), track(x));
    const merged = mergeStates(
      two,
      one('m', 'C', 3),
      addTracker(one('t', 'C', 7), spot('u', 'C 2'), track(5)),
    );
    expect(names(merged)).toEqual(['a', 'b', 'C', 'C 2', 'C 3']);
    expect(['t', 'm'].map((id) => trackOf(merged, id).values.x[0])).toEqual([7, 3]);
  });

  it('joins keyframes of either side, in order', () => {
    const merged = mergeStates(two, setGoalKey(two, keyAt(40)), setGoalKey(two, keyAt(10)));
    expect(merged.document.goal.keys.map((k) => k.frame)).toEqual([10, 40]);
  });

  it('deletes what one deleted, unless the other changed it or measured it anew', () => {
    const merged = mergeStates(two, removeTrackers(two, ['a', 'b']), changeSpot(two, 'b', { name: 'kept' }));
    expect(names(merged)).toEqual(['kept']);
    expect(Object.keys(merged.measured)).toEqual(['b']);
    const measured = mergeStates(two, removeTrackers(two, ['a']), setMeasured(two, { a: track(9) }));
    expect(names(measured).sort()).toEqual(['a', 'b']);
    expect(names(mergeStates(two, removeTrackers(two, ['a']), removeTrackers(two, ['a', 'b'])))).toEqual([]);
  });

  it('keeps the mover that a kept spot is on, though the other side dropped it', () => {
    const base = setMover(two, 'b', 'railing');
    const mine = setMover(base, 'b', '');
    const theirs = setMover(base, 'a', 'railing');
    const merged = mergeStates(base, mine, theirs);
    expect(parseDocument(JSON.parse(JSON.stringify(merged.document)), CLIP)).toEqual(merged.document);
  });

  it('prefers its own where both changed one thing', () => {
    const merged = mergeStates(two, changeDocument(two, { ref: 1 }), changeDocument(two, { ref: 2 }));
    expect(merged.document.ref).toBe(1);
  });

  it('gives either side back where the other did nothing', () => {
    const changed = setMover(changeSpot(two, 'a', { role: 'turn' }), 'b', 'railing');
    expect(mergeStates(two, changed, two)).toEqual(changed);
    expect(mergeStates(two, two, changed)).toEqual(changed);
  });
});

describe('deliveries', () => {
  const fresh = (): ShotState => ({
    document: newDocument({ width: 64, height: 48, frames: 9 }),
    measured: {},
  });
  const names = (s: ShotState) => s.document.deliveries.map((d) => d.name);

  it('are added under names of their own, and taken out down to the last', () => {
    let state = addDelivery(fresh(), { ...NEW_DELIVERY, id: 'b' });
    state = addDelivery(state, { ...NEW_DELIVERY, id: 'c' });
    expect(names(state)).toEqual(['Steadied', 'Steadied 2', 'Steadied 3']);
    state = removeDelivery(removeDelivery(state, 'b'), NEW_DELIVERY.id);
    expect(names(state)).toEqual(['Steadied 3']);
    expect(removeDelivery(state, 'c')).toBe(state);
  });

  it('stand alone for what draws them; one that has gone is told of', () => {
    const { document } = addDelivery(fresh(), { ...NEW_DELIVERY, id: 'b', name: 'To cut with' });
    expect(forDelivery(document, 'b').deliveries.map((d) => d.id)).toEqual(['b']);
    expect(() => forDelivery(document, 'z')).toThrow(/no such delivery/);
  });

  it('compare the steadied picture alone with the one as shot', () => {
    const with_ = { ...NEW_DELIVERY, compare: 'wipe' } as const;
    expect(comparedBy(with_)).toEqual({ way: 'wipe', labels: false });
    expect(comparedBy({ ...with_, labels: true })).toEqual({ way: 'wipe', labels: true });
    expect(comparedBy(NEW_DELIVERY)).toBeNull();
    expect(comparedBy({ ...with_, picture: 'as-shot' })).toBeNull();
    expect(comparedBy({ ...with_, base: false })).toBeNull();
    const state = changeDelivery(fresh(), NEW_DELIVERY.id, { compare: 'above' });
    const json = JSON.parse(JSON.stringify(state.document)) as ShotState['document'];
    expect(json.deliveries[0].compare).toBe('above');
  });
});
