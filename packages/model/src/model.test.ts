import type { GoalKey } from '@lurn/core';
import {
  NEW_FRAMING,
  NEW_GOAL,
  NEW_SPOT,
  newDocument,
  steadyRequest,
  type ShotState,
  type Spot,
} from './document.js';
import {
  addSpot,
  changeDocument,
  changeSpot,
  clampSize,
  moveGoalKey,
  nextColour,
  nextName,
  removeGoalKey,
  removeSpots,
  setAt,
  setGoalKey,
  setRange,
  setTracks,
} from './edits.js';
import { mergeStates } from './merge.js';
import { parseDocument } from './parse.js';

const CLIP = { width: 1280, height: 720, frames: 180 };
const spot = (id: string, name = id): Spot => ({
  ...NEW_SPOT,
  id,
  name,
  colour: 0,
  patch: [15, 15],
  reach: [32, 24],
  minConfidence: 0.55,
});
const track = (x: number) => ({
  start: 0,
  x: Float64Array.of(x),
  y: Float64Array.of(2),
  confidence: Float64Array.of(1),
  state: Uint8Array.of(1),
  mismatch: Float64Array.of(0),
});
const empty: ShotState = { document: newDocument(CLIP), tracks: {} };
const two = addSpot(addSpot(empty, spot('a'), track(1)), spot('b'), track(5));

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

  it('of version 1 and 2 are brought up to date', () => {
    const { accepted, edges: _edges, goal: _goal, framing: _framing, ...rest } = two.document;
    const old = {
      ...rest,
      goal: 'still',
      use: { x: true, y: true, rotation: false, scale: true },
      framing: { mode: 'hand', zoom: 1.2, shiftX: 3, shiftY: -4 },
    };
    const version2 = {
      ...old,
      version: 2,
      accepted,
      spots: two.document.spots.map(({ role: _role, ...s }) => s),
    };
    const version1 = {
      ...old,
      version: 1,
      spots: two.document.spots.map(({ id, name, colour, patch, reach, minConfidence, used }) => ({
        ...{ id, name, colour, patch, reach, minConfidence, used },
      })),
    };
    for (const document of [version1, version2]) {
      expect(parseDocument(JSON.parse(JSON.stringify(document)), CLIP)).toEqual({
        ...two.document,
        goal: { ...NEW_GOAL, amounts: { x: 1, y: 1, rotation: 0, scale: 1 } },
        framing: { ...NEW_FRAMING, mode: 'none', zoom: 1.2, shiftX: 3, shiftY: -4 },
      });
    }
  });

  it.each([
    [{ ref: 180 }, /document\.ref must be a number from 0 to 179, not 180/],
    [{ ref: 1.5 }, /document\.ref must be a whole number/],
    [{ range: { from: 9, to: 3 } }, /in point after its out point/],
    [{ framing: { ...NEW_FRAMING, zoom: -1 } }, /document\.framing\.zoom must be/],
    [{ framing: { ...NEW_FRAMING, delivery: { width: 1281, height: 720 } } }, /delivery\.width must be even/],
    [{ edges: { mode: 'colour', colour: 'red' } }, /document\.edges\.colour must be a colour/],
    [{ spots: [spot('a'), spot('a')] }, /two spots with one id/],
    [{ spots: [{ ...spot('a'), name: '' }] }, /document\.spots\[0\]\.name must be a text/],
    [{ spots: [{ ...spot('a'), patch: [0, 3] }] }, /patch\[0\] must be a number from 3/],
    [{ colourful: true }, /document\.colourful is not known/],
    [{ goal: { ...NEW_GOAL, goal: 'fly' } }, /document\.goal\.goal must be one of still, calm, lock/],
    [{ goal: { ...NEW_GOAL, keys: [keyAt(5), keyAt(5)] } }, /document\.goal\.keys\[1\]\.frame is not after/],
    [{ crf: NaN }, /document\.crf/],
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
    const state = changeSpot(addSpot(two, spot('c'), track(2)), 'a', { used: false, role: 'turn' });
    const { c: _c, ...tracks } = state.tracks;
    const info = { ...CLIP, pixelAspect: 1, fps: 25 } as Parameters<typeof steadyRequest>[1];
    const request = steadyRequest({ ...state, tracks }, info);
    expect(request.names).toEqual(['b']);
    expect(request).toMatchObject({ fps: 25, frames: 180, from: 0, to: 179, roles: ['both'] });
  });
});

describe('edits', () => {
  it('share what they do not change', () => {
    const renamed = changeSpot(two, 'a', { name: 'gable' });
    expect(renamed.tracks).toBe(two.tracks);
    expect(renamed.document.spots[1]).toBe(two.document.spots[1]);
    expect(two.document.spots[0].name).toBe('a');
  });

  it('delete a spot with its track', () => {
    const one = removeSpots(two, ['a']);
    expect(one.document.spots.map((s) => s.id)).toEqual(['b']);
    expect(Object.keys(one.tracks)).toEqual(['b']);
  });

  it('give tracks only to spots that are there', () => {
    expect(setTracks(two, { gone: track(9) })).toBe(two);
    expect(setTracks(two, { b: track(9) }).tracks.b.x[0]).toBe(9);
  });

  it('keep in before out', () => {
    const moved = setRange(setRange(two, 'to', 40), 'from', 60);
    expect(moved.document.range).toEqual({ from: 60, to: 60 });
    expect(setRange(moved, 'to', 10).document.range).toEqual({ from: 10, to: 10 });
  });

  it('name and colour spots apart', () => {
    expect(nextName(addSpot(empty, spot('x', 'A'), track(0)).document)).toBe('B');
    expect(nextColour(two.document)).toBe(1);
    expect(clampSize('patch', [0.2, 9.6])).toEqual([3, 10]);
  });
});

describe('merging two tabs', () => {
  it('keeps what either changed', () => {
    const mine = setTracks(changeSpot(two, 'a', { name: 'mine' }), { b: track(7) });
    const theirs = changeDocument(addSpot(two, spot('c'), track(3)), { ref: 30 });
    const merged = mergeStates(two, mine, theirs);
    expect(merged.document.spots.map((s) => s.name)).toEqual(['mine', 'b', 'c']);
    expect(merged.document.ref).toBe(30);
    expect(merged.tracks.b.x[0]).toBe(7);
    expect(merged.tracks.c.x[0]).toBe(3);
  });

  it('deletes what one deleted, unless the other changed it', () => {
    const merged = mergeStates(two, removeSpots(two, ['a', 'b']), changeSpot(two, 'b', { name: 'kept' }));
    expect(merged.document.spots.map((s) => s.name)).toEqual(['kept']);
    expect(Object.keys(merged.tracks)).toEqual(['b']);
  });

  it('prefers its own where both changed one thing', () => {
    const merged = mergeStates(two, changeDocument(two, { ref: 1 }), changeDocument(two, { ref: 2 }));
    expect(merged.document.ref).toBe(1);
  });
});
