import { planFor } from '@lurn/core/plan';
import { EMPTY_TRACK, withSamples } from '@lurn/core/track';
import {
  addTracker,
  FIRST_MOVER,
  NEW_SPOT,
  newDocument,
  removeTrackers,
  shotRequest,
  spotById,
  spotsOf,
  type ClipInfo,
  type ShotState,
  type Spot,
} from '@lurn/model';
import {
  aimNow,
  leaveOutOddest,
  nextWorstFrame,
  nudgeSubject,
  setAmount,
  setGoal,
  setSmoothing,
  toggleGoalKey,
} from './aims';
import { bench, setBench } from './bench';
import { edit, openShot, shotDocument, shotState, undo } from './shot';

const FRAMES = 40;
const info = { width: 640, height: 360, frames: FRAMES, fps: 25, pixelAspect: 1, duration: 1.6 } as ClipInfo;
const spot = (id: string): Spot => ({
  ...NEW_SPOT,
  ...{ id, name: id, mover: FIRST_MOVER.id, colour: 0, patch: [9, 9], reach: [12, 12], minConfidence: 0.5 },
});
/** Spots that sway across by so many pixels: the last one on its own. */
const swayed = (x: number, y: number, by: number) =>
  withSamples(
    EMPTY_TRACK,
    Array.from({ length: FRAMES }, (_, frame) => ({
      ...{ frame, x: x + by * Math.sin(frame / 3), y, confidence: 1 },
      state: 'tracked' as const,
    })),
  );

beforeEach(() => {
  let state: ShotState = { document: newDocument(info), measured: {} };
  for (const [id, x, y, by] of [
    ['a', 100, 80, 8],
    ['b', 500, 90, 8],
    ['c', 300, 250, 8],
    ['d', 200, 300, 8],
    ['e', 400, 320, 14],
  ] as const)
    state = addTracker(state, spot(id), swayed(x, y, by));
  openShot(state);
  setBench({ info, frame: 0, playing: false, times: new Float64Array(FRAMES), station: 'steady' });
  setBench({ steady: planFor(shotRequest(shotState(), info)), steadyOf: shotState() });
});

describe('goal and amounts', () => {
  it('hold throughout until a keyframe is set, then change from frame to frame', () => {
    setAmount('rotation', 0.25);
    setGoal('calm');
    expect(shotDocument().goal).toMatchObject({ goal: 'calm', amounts: { rotation: 0.25, x: 1 }, keys: [] });
    toggleGoalKey();
    setBench({ frame: 20 });
    setAmount('x', 0);
    expect(shotDocument().goal.keys.map((k) => [k.frame, k.goal, k.amounts.x])).toEqual([
      [0, 'calm', 1],
      [20, 'calm', 0],
    ]);
    expect(aimNow(shotDocument().goal, 10).amounts.x).toBeCloseTo(0.5, 9);
    toggleGoalKey();
    expect(shotDocument().goal.keys).toHaveLength(1);
    undo();
    expect(shotDocument().goal.keys).toHaveLength(2);
  });

  it('smooth all components alike, or one', () => {
    setSmoothing(2);
    setSmoothing(0.5, 'rotation');
    expect(shotDocument().goal.calm.smoothing).toEqual({ x: 2, y: 2, rotation: 0.5, scale: 2 });
  });
});

describe('the held subject', () => {
  it('is nudged from where it is, and only while something is held', () => {
    expect(nudgeSubject(1, 0)).toBe(false);
    setGoal('lock');
    const { pivot } = bench().steady!.motion;
    expect(nudgeSubject(1, -2)).toBe(true);
    expect(shotDocument().goal.lock).toMatchObject({ place: 'given', x: pivot.x + 1, y: pivot.y - 2 });
    expect(nudgeSubject(1, 0)).toBe(true);
    expect(shotDocument().goal.lock.x).toBeCloseTo(pivot.x + 2, 9);
  });
});

describe('what spoils the picture', () => {
  it('is left out, the oddest spot first, and brought back by undo', () => {
    leaveOutOddest();
    expect(spotsOf(shotDocument()).find((s) => !s.used)?.id).toBe('e');
    setBench({ steady: planFor(shotRequest(shotState(), info)), steadyOf: shotState() });
    const before = shotState();
    leaveOutOddest();
    expect(shotState()).toBe(before);
    undo();
    expect(spotsOf(shotDocument()).every((s) => s.used)).toBe(true);
  });

  it('is the spot that the plan was made with, also when others have gone or come since', () => {
    // The plan is the old one still: what it calls odd is found by its id, not by its place among the spots of now.
    edit((state) => removeTrackers(state, ['a']));
    leaveOutOddest();
    expect(spotById(shotDocument(), 'e')!.used).toBe(false);
    expect(['b', 'c', 'd'].every((id) => spotById(shotDocument(), id)!.used)).toBe(true);
    edit((state) => removeTrackers(state, ['e']));
    const before = shotState();
    leaveOutOddest();
    expect(shotState()).toBe(before);
  });

  it('is the frame that needs most zoom, then the next, round and round', () => {
    const { worst } = bench().steady!;
    expect(worst.length).toBeGreaterThan(1);
    const seen = [...worst, worst[0]].map(() => {
      nextWorstFrame();
      return bench().frame;
    });
    expect(seen).toEqual([...worst, worst[0]]);
    expect(bench().station).toBe('frame');
  });

  it('is asked of the plan of what was just changed, once, when that is there', () => {
    setGoal('calm');
    setBench({ frame: 0 });
    nextWorstFrame();
    nextWorstFrame();
    expect(bench().frame).toBe(0);
    const steady = planFor(shotRequest(shotState(), info));
    expect(steady!.worst[0]).not.toBe(0);
    setBench({ steady, steadyOf: shotState() });
    expect(bench().frame).toBe(steady!.worst[0]);
    setBench({ frame: 0, steady });
    expect(bench().frame).toBe(0);
  });

  it('is not asked any more once another clip is open', () => {
    setGoal('calm');
    nextWorstFrame();
    setBench({ frame: 0, info: { ...info } });
    setBench({ steady: planFor(shotRequest(shotState(), info)), steadyOf: shotState() });
    expect(bench().frame).toBe(0);
  });
});
