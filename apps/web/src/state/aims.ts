import { toast } from 'sonner';
import { goalKind, stateAt, type Amounts, type Goal, type GoalKey, type GoalSettings } from '@lurn/core/plan';
import {
  changeDocument,
  changeGoal,
  changeSpot,
  removeGoalKey,
  setAt,
  setGoalKey,
  spotById,
  type ShotDocument,
} from '@lurn/model';
import { bench, goTo, setBench, useBench } from './bench';
import { edit, shotDocument, shotState, useShot } from './shot';

/** What the editor decides about the goal and the frame; each is one step of undo unless a gesture is under way. */

/** Goal and amounts as they are felt on the present frame. */
export function aimNow(settings: GoalSettings, frame: number): { goal: Goal; amounts: Amounts } {
  const { goal, next, share, amounts } = stateAt(settings, frame);
  return { goal: share > 0.5 ? next : goal, amounts };
}

/** The same, for a component: the playhead matters only where something is keyed. */
export function useAim(): { goal: Goal; amounts: Amounts } {
  const settings = useShot((s) => s.state.document.goal);
  const frame = useBench((s) => (settings.keys.length > 0 ? s.frame : 0));
  return aimNow(settings, frame);
}

const now = () => aimNow(shotDocument().goal, bench().frame);

export function setGoal(goal: Goal): void {
  edit((state) => setAt(state, bench().frame, { ...now(), goal }));
}

export function setAmount(part: keyof Amounts, value: number): void {
  const { goal, amounts } = now();
  edit((state) => setAt(state, bench().frame, { goal, amounts: { ...amounts, [part]: value } }));
}

export function setCalm(change: Partial<GoalSettings['calm']>): void {
  edit((state) => changeGoal(state, { calm: { ...state.document.goal.calm, ...change } }));
}

/** The same smoothing for all components, or for one. */
export function setSmoothing(seconds: number, part?: keyof Amounts): void {
  const all = { x: seconds, y: seconds, rotation: seconds, scale: seconds };
  setCalm({ smoothing: part ? { ...shotDocument().goal.calm.smoothing, [part]: seconds } : all });
}

export function setLock(change: Partial<GoalSettings['lock']>): void {
  edit((state) => changeGoal(state, { lock: { ...state.document.goal.lock, ...change } }));
}

/** Moves the place in which the subject is held. @returns false when nothing is held */
export function nudgeSubject(dx: number, dy: number): boolean {
  const { steady } = bench();
  const place = steady && goalKind(now().goal).place(steady.motion, shotDocument().goal, steady.size);
  if (!place) return false;
  setLock({ place: 'given', x: place.x + dx, y: place.y + dy });
  return true;
}

export function setFraming(change: Partial<ShotDocument['framing']>): void {
  edit((state) => changeDocument(state, { framing: { ...state.document.framing, ...change } }));
}

export function setEdges(change: Partial<ShotDocument['edges']>): void {
  edit((state) => changeDocument(state, { edges: { ...state.document.edges, ...change } }));
}

/** A keyframe of goal and amounts on the present frame, or away with the one that is there. */
export function toggleGoalKey(): void {
  const { frame } = bench();
  const { keys } = shotDocument().goal;
  const aim = now();
  const key: GoalKey = { frame, easing: goalKind(aim.goal).easing, ...aim };
  edit((state) =>
    keys.some((k) => k.frame === frame) ? removeGoalKey(state, frame) : setGoalKey(state, key),
  );
}

/** Leaves the spot out that fits the motion worst. */
export function leaveOutOddest(): void {
  const odd = bench().steady?.odd[0];
  if (!odd) {
    toast.info('No spot moves otherwise than the rest.', { id: 'odd' });
    return;
  }
  // The plan tells of the state that it was made of: the spot may be another, or gone, by now.
  const spot = spotById(shotDocument(), odd.spot);
  if (!spot?.used) return;
  edit((state) => changeSpot(state, spot.id, { used: false }));
  toast.info(`${spot.name} is left out. Undo brings it back.`, { id: 'odd' });
}

let waiting: (() => void) | null = null;

/**
 * Acts once the plan is of the shot as it is now: a key pressed faster than the plan is worked out means the new one.
 * The last that was asked for counts.
 */
function oncePlanned(act: () => void): void {
  waiting?.();
  waiting = null;
  const stands = () => bench().steadyOf === shotState();
  if (stands()) {
    act();
    return;
  }
  const { info } = bench();
  const stop = useBench.subscribe((now) => {
    const sameClip = now.info === info;
    if (sameClip && !stands()) return;
    stop();
    waiting = null;
    if (sameClip) act();
  });
  waiting = stop;
}

/** Goes to the frame that needs the most zoom, then to the next worst. */
export function nextWorstFrame(): void {
  oncePlanned(showNextWorst);
}

function showNextWorst(): void {
  const { steady, frame } = bench();
  if (!steady || steady.worst.length === 0) {
    toast.info('No frame needs any zoom.', { id: 'worst' });
    return;
  }
  const at = steady.worst.indexOf(frame);
  setBench({ station: 'frame', playing: false });
  goTo(steady.worst[(at + 1) % steady.worst.length]);
}
