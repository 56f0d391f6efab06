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
  gesture = null;
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

let gesture: { readonly before: ShotState } | null = null;

/** Begins an act of many small changes, such as a drag or a run of tracking. {@link endGesture} makes it one step. */
export function beginGesture(): void {
  if (gesture) endGesture();
  gesture = { before: shotState() };
  useShot.temporal.getState().pause();
}

/** Gives a gesture up: everything is as it was before it began. */
export function cancelGesture(): void {
  if (!gesture) return;
  const { before } = gesture;
  gesture = null;
  useShot.setState({ state: before });
  useShot.temporal.getState().resume();
}

export function endGesture(): void {
  if (!gesture) return;
  const { before } = gesture;
  const after = shotState();
  gesture = null;
  useShot.setState({ state: before });
  useShot.temporal.getState().resume();
  if (after !== before) useShot.setState({ state: after });
}

export function undo(): void {
  endGesture();
  useShot.temporal.getState().undo();
}

export function redo(): void {
  endGesture();
  useShot.temporal.getState().redo();
}
