import { temporal } from 'zundo';
import { create } from 'zustand';
import { newDocument, type ShotState } from '@lurn/model';

/** The shot that is worked on, with undo through every step. */
interface ShotStore {
  readonly state: ShotState;
}

const NOTHING: ShotState = { document: newDocument({ width: 1, height: 1, frames: 1 }), measured: {} };

export const useShot = create<ShotStore>()(
  temporal((): ShotStore => ({ state: NOTHING }), {
    limit: 1000,
    equality: (a, b) => a.state === b.state,
  }),
);

export const shotState = () => useShot.getState().state;
export const shotDocument = () => shotState().document;

/** Opens a shot: what was before cannot be undone into. */
export function openShot(state: ShotState): void {
  const { pause, resume, clear } = useShot.temporal.getState();
  gesture = running = within = null;
  pause();
  useShot.setState({ state });
  clear();
  resume();
}

/** Takes over what another tab or the server has made of the shot; not a step of undo. */
export function replaceShot(state: ShotState): void {
  const history = useShot.temporal.getState();
  history.pause();
  useShot.setState({ state });
  if (!gesture) history.resume();
}

/** One act: one step of undo. */
export function edit(change: (state: ShotState) => ShotState): void {
  const next = change(shotState());
  if (next !== shotState()) useShot.setState({ state: next });
}

interface Gesture {
  readonly before: ShotState;
}

let gesture: Gesture | null = null;
/** The gesture that is a run of work rather than of a hand: only its own end ends it. */
let running: Gesture | null = null;
/** Where a hand's gesture during a run began: it is part of the run's step. */
let within: ShotState | null = null;
/** Asks the run to end. */
let stopRun: (() => void) | null = null;
/** How much of the hand's gesture is still being worked out, and whether the hand itself has ended it. */
let pending = 0;
let released = false;

function begin(): Gesture {
  commit();
  useShot.temporal.getState().pause();
  return (gesture = { before: shotState() });
}

function commit(): void {
  if (!gesture) return;
  const { before } = gesture;
  const after = shotState();
  gesture = running = within = stopRun = null;
  released = false;
  useShot.setState({ state: before });
  useShot.temporal.getState().resume();
  if (after !== before) useShot.setState({ state: after });
}

/** Work that changes the shot many times, such as tracking: one step of undo. */
export interface Run {
  /** Whether it has ended or was undone: what it still finds is not taken. */
  readonly over: boolean;
  end(): void;
}

/** @param stop  asks the work to end, where somebody undoes it before it has */
export function beginRun(stop: () => void): Run {
  const own = (running = begin());
  stopRun = stop;
  return {
    get over() {
      return gesture !== own;
    },
    end() {
      if (gesture === own) commit();
    },
  };
}

/** Begins a hand's act of many small changes, such as a drag. {@link endGesture} makes it one step. */
export function beginGesture(): void {
  if (running) within = shotState();
  else begin();
}

/** Gives a gesture up: everything is as it was before it began. */
export function cancelGesture(): void {
  if (!gesture) return;
  if (running) {
    // What the run has measured meanwhile stays.
    if (within) useShot.setState({ state: { ...shotState(), document: within.document } });
    within = null;
    return;
  }
  const { before } = gesture;
  gesture = null;
  useShot.setState({ state: before });
  useShot.temporal.getState().resume();
}

export function endGesture(): void {
  if (running) within = null;
  else if (pending > 0) released = true;
  else commit();
}

/** Works something out that belongs to the hand's gesture: the gesture is open until it is there. */
export async function withinGesture(work: () => Promise<void>): Promise<void> {
  pending++;
  try {
    await work();
  } finally {
    pending--;
    if (released && pending === 0 && !running) commit();
  }
}

/** Takes the last step back; a run that is under way ends with it. */
export function undo(): void {
  stopRun?.();
  commit();
  useShot.temporal.getState().undo();
}

export function redo(): void {
  stopRun?.();
  commit();
  useShot.temporal.getState().redo();
}
