import type { Doubt } from '@lurn/core/doubt';
import type { Plan, Trade } from '@lurn/core/plan';
import type { AnalysedScene, MoverMasks } from '@lurn/core/solve';
import type { Grip, GripMap } from '@lurn/core/track';
import type { ShotState } from '@lurn/model';
import type { PictureMeasure } from '../../workers/measure.worker';
import type { BorrowedEdge } from '../../workers/planner';

/** Where movers are on a frame, to the pixel nearly. */
export interface FrameMasks {
  readonly scene: AnalysedScene;
  readonly frame: number;
  readonly of: MoverMasks;
}

/** What follows from the shot, worked out by workers a moment later. */
export interface DerivedSlice {
  /** What is known of the clip's pictures as a whole; null until it has been read, or where nothing is. */
  readonly scene: AnalysedScene | null;
  /** Made where movers are told apart and the playhead rests. */
  readonly masks: FrameMasks | null;
  readonly steady: Plan | null;
  /** The very state that the plan was made of; what the plan tells is of this one, not of what came since. */
  readonly steadyOf: ShotState | null;
  /** The plans where others of the likeliest were held, by their ids, and the one that is being tried out. */
  readonly instead: Readonly<Record<string, Plan>>;
  readonly tried: Plan | null;
  /** What less smoothing, or smaller amounts, would save in zoom; null while it is not known. */
  readonly trade: Trade | null;
  /** With borrowed edges: frames on which they are not what a wider camera would have shown. */
  readonly borrowed: readonly BorrowedEdge[];
  /** What is left of the shake, measured on the pictures; null until it is asked for, or once it is out of date. */
  readonly pictureMeasure: PictureMeasure | null;
  /** Doubts of the spots, and of the edges; `doubts` has all of them, in the order of their places, worst first. */
  readonly spotDoubts: readonly Doubt[];
  readonly edgeDoubts: readonly Doubt[];
  readonly doubts: readonly Doubt[];
  /** How far spots lie from where the others put them, in pixels RMS, by id. */
  readonly residuals: Readonly<Record<string, number>>;
  /** Grip by spot id, read where the spot is on the present frame, else on its first pin. */
  readonly grips: Readonly<Record<string, Grip>>;
  readonly map: GripMap | null;
}

export const BLANK_DERIVED = {
  scene: null,
  masks: null,
  steady: null,
  steadyOf: null,
  instead: {},
  tried: null,
  trade: null,
  borrowed: [],
  pictureMeasure: null,
  spotDoubts: [],
  edgeDoubts: [],
  doubts: [],
  residuals: {},
  grips: {},
  map: null,
} as const satisfies DerivedSlice;
