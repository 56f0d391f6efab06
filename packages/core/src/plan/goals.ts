import type { Framing, Size } from '../framing/framing.js';
import type { SimilarityParts } from '../geometry/similarity.js';

/** What the motion is to become: gone, rid of its shake, or such that the subject stays in its place. */
export type Goal = 'still' | 'calm' | 'lock';

/** How much of each component is taken out, 0 to 1. */
export interface Amounts {
  readonly x: number;
  readonly y: number;
  readonly rotation: number;
  readonly scale: number;
}

export interface CalmSettings {
  /** `gaussian`: a weighted mean about each moment; `optimal`: the L1-optimal path within a largest zoom. */
  readonly method: 'gaussian' | 'optimal';
  /** Seconds for each component: the width of the Gaussian window at half its height. */
  readonly smoothing: Amounts;
  /** The largest zoom that the optimal path may need. */
  readonly maxZoom: number;
}

export interface LockSettings {
  /** Where the subject is held: as on the reference frame, in the middle of the frame, or at (x, y). */
  readonly place: 'reference' | 'middle' | 'given';
  /** The given place of the subject's middle, in steadied coordinates. */
  readonly x: number;
  readonly y: number;
  /** Pixels within which the subject may float. */
  readonly tolerance: number;
  /** Seconds in which the hold sets in at the beginning of the range, and lets go at its end. */
  readonly easeIn: number;
  readonly easeOut: number;
}

/** How one keyframe passes over into the next. */
export type Easing = 'hold' | 'linear' | 'smooth';

/** From this frame on another goal or other amounts. */
export interface GoalKey {
  readonly frame: number;
  readonly goal: Goal;
  readonly amounts: Amounts;
  readonly easing: Easing;
}

export interface GoalSettings {
  readonly goal: Goal;
  readonly amounts: Amounts;
  /** Still: the pose of the reference frame, or the average over the range. */
  readonly pose: 'frame' | 'average';
  readonly calm: CalmSettings;
  readonly lock: LockSettings;
  /** In order of frames; none: `goal` and `amounts` hold throughout. */
  readonly keys: readonly GoalKey[];
}

/** What the goals are worked out for. */
export interface Stage {
  readonly size: Size;
  /** The part of the frame that is delivered at zoom 1. */
  readonly window: Size;
  readonly shift: Pick<Framing, 'shiftX' | 'shiftY'>;
  /** First and last frame that count, both included. */
  readonly from: number;
  readonly to: number;
  readonly fps: number;
  /** First frames of parts that are smoothed by themselves, beside those of the motion. */
  readonly cuts?: readonly number[];
}

/** The keyed state on one frame: the goals on either side, how far between them, and the amounts. */
export interface KeyedState {
  readonly goal: Goal;
  readonly next: Goal;
  /** 0 at `goal`, 1 at `next`. */
  readonly share: number;
  readonly amounts: Amounts;
}

/** Goal and amounts on a frame, keyframes considered. */
export function stateAt(settings: GoalSettings, frame: number): KeyedState {
  const { keys } = settings;
  if (keys.length === 0) {
    return { goal: settings.goal, next: settings.goal, share: 0, amounts: settings.amounts };
  }
  const { a, b, share } = betweenKeys(keys, frame);
  const between = (key: keyof Amounts) => a.amounts[key] + share * (b.amounts[key] - a.amounts[key]);
  return {
    goal: a.goal,
    next: b.goal,
    share,
    amounts: { x: between('x'), y: between('y'), rotation: between('rotation'), scale: between('scale') },
  };
}

/** The keys on either side of a frame, and how far it is from one to the other; before the first and after the last, that. */
export function betweenKeys<K extends { readonly frame: number; readonly easing: Easing }>(
  keys: readonly K[],
  frame: number,
): { readonly a: K; readonly b: K; readonly share: number } {
  let k = keys.length - 1;
  while (k > 0 && keys[k].frame > frame) k--;
  const [a, b] = [keys[k], keys[k + 1]];
  if (!b || frame <= a.frame) return { a, b: a, share: 0 };
  const t = (frame - a.frame) / (b.frame - a.frame);
  return { a, b, share: a.easing === 'hold' ? 0 : a.easing === 'linear' ? t : gentle(t) };
}

/** From 0 to 1 with neither speed nor acceleration at its ends. */
export function gentle(t: number): number {
  const u = Math.min(1, Math.max(0, t));
  return u * u * u * (u * (6 * u - 15) + 10);
}

/** From measured parts towards the wanted ones by the amounts. */
export function approach(m: SimilarityParts, w: SimilarityParts, a: Amounts): SimilarityParts {
  return {
    x: m.x + a.x * (w.x - m.x),
    y: m.y + a.y * (w.y - m.y),
    rotation: m.rotation + a.rotation * (w.rotation - m.rotation),
    logScale: m.logScale + a.scale * (w.logScale - m.logScale),
  };
}
