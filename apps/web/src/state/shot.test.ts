import { changeDocument, newDocument, type ShotState } from '@lurn/model';
import {
  beginGesture,
  beginRun,
  cancelGesture,
  edit,
  endGesture,
  openShot,
  redo,
  replaceShot,
  shotDocument,
  undo,
  useShot,
  withinGesture,
} from './shot';

const fresh: ShotState = { document: newDocument({ width: 1280, height: 720, frames: 100 }), measured: {} };
const setRef = (ref: number) => edit((state) => changeDocument(state, { ref }));
const steps = () => useShot.temporal.getState().pastStates.length;

beforeEach(() => openShot(fresh));

describe('undo', () => {
  it('goes back and forth through every edit', () => {
    [10, 20, 30].forEach(setRef);
    undo();
    undo();
    expect(shotDocument().ref).toBe(10);
    redo();
    expect(shotDocument().ref).toBe(20);
    undo();
    undo();
    undo();
    expect(shotDocument().ref).toBe(0);
  });

  it('takes a gesture of many changes as one step', () => {
    setRef(5);
    beginGesture();
    for (let i = 6; i < 40; i++) setRef(i);
    endGesture();
    expect(steps()).toBe(2);
    undo();
    expect(shotDocument().ref).toBe(5);
    redo();
    expect(shotDocument().ref).toBe(39);
  });

  it('a gesture that changed nothing is no step', () => {
    beginGesture();
    endGesture();
    edit((state) => state);
    expect(steps()).toBe(0);
  });

  it('ends a gesture under way first', () => {
    beginGesture();
    setRef(7);
    undo();
    expect(shotDocument().ref).toBe(0);
    redo();
    expect(shotDocument().ref).toBe(7);
  });

  it('what another tab has done is no step, and a newly opened shot cannot be undone', () => {
    setRef(3);
    replaceShot({ ...fresh, document: { ...fresh.document, ref: 50 } });
    expect(steps()).toBe(1);
    openShot(fresh);
    undo();
    expect(shotDocument()).toBe(fresh.document);
  });

  it('a gesture that is given up leaves nothing, and no step', () => {
    setRef(3);
    const before = steps();
    beginGesture();
    setRef(4);
    setRef(5);
    cancelGesture();
    expect(shotDocument().ref).toBe(3);
    expect(steps()).toBe(before);
    setRef(6);
    expect(steps()).toBe(before + 1);
  });

  it('a run is one step, whatever a hand drags meanwhile', () => {
    const run = beginRun(() => undefined);
    setRef(4);
    beginGesture();
    setRef(5);
    endGesture();
    setRef(6);
    beginGesture();
    setRef(7);
    cancelGesture();
    expect(shotDocument().ref).toBe(6);
    expect(steps()).toBe(0);
    run.end();
    expect(steps()).toBe(1);
    undo();
    expect(shotDocument().ref).toBe(0);
    // It has ended: a drag is a step of its own again.
    beginGesture();
    setRef(8);
    endGesture();
    run.end();
    expect(steps()).toBe(1);
  });

  it('undone before it has ended, a run is asked to end, and takes nothing any more', () => {
    const stop = jest.fn();
    const run = beginRun(stop);
    setRef(4);
    expect(run.over).toBe(false);
    undo();
    expect(stop).toHaveBeenCalledTimes(1);
    expect([run.over, shotDocument().ref, steps()]).toEqual([true, 0, 0]);
    run.end();
    redo();
    expect([shotDocument().ref, steps()]).toEqual([4, 1]);
    expect(stop).toHaveBeenCalledTimes(1);
  });

  it('what a gesture works out longer than the hand drags belongs to its step', async () => {
    let first!: () => void;
    let second!: () => void;
    beginGesture();
    const a = withinGesture(async () => {
      await new Promise<void>((resume) => (first = resume));
      setRef(4);
    });
    const b = withinGesture(async () => {
      await new Promise<void>((resume) => (second = resume));
      setRef(5);
    });
    endGesture();
    first();
    await a;
    expect(steps()).toBe(0);
    second();
    await b;
    expect([shotDocument().ref, steps()]).toEqual([5, 1]);
    undo();
    expect(shotDocument().ref).toBe(0);
  });
});
