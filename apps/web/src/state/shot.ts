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

function begin(): Gesture {
  commit();
  useShot.temporal.getState().pause();
  return (gesture = { before: shotState() });
}

function commit(): void {
  if (!gesture) return;
  const { before } = gesture;
  const after = shotState();
  gesture = running = within = null;
  useShot.setState({ state: before });
  useShot.temporal.getState().resume();
  if (after !== before) useShot.setState({ state: after });
}

/** Begins work that changes the shot many times, such as tracking, as one step of undo. @returns what ends it */
export function beginRun(): () => void {
  const own = (running = begin());
  return () => {
    if (gesture === own) commit();
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
  else commit();
}

export function undo(): void {
  commit();
  useShot.temporal.getState().undo();
}

export function redo(): void {
  commit();
  useShot.temporal.getState().redo();
}
