import type { Size } from '../framing/framing.js';
import type { Point } from '../geometry/matrix.js';
import type { SimilarityParts } from '../geometry/similarity.js';
import type { Motion } from '../solve/motion.js';
import type { Steps } from '../steps.js';
import type { Amounts, Easing, Goal, GoalSettings, Stage } from './goals.js';

/** A goal: the motion that is wanted in place of the measured one. What plans, edits or shows goals knows this. */
export interface GoalKind {
  readonly goal: Goal;
  /** How a keyframe of it passes over into the next, until told otherwise. */
  readonly easing: Easing;
  /**
   * The wanted motion, frame by frame; in steps, for it may take seconds.
   *
   * @param amounts  how much of each component is taken out, by frame
   */
  wanted(
    motion: Motion,
    settings: GoalSettings,
    stage: Stage,
    amounts: readonly Amounts[],
  ): Steps<readonly SimilarityParts[]>;
  /** The share of its amounts on a frame, 0 to 1: less where it sets in or lets go. */
  share(settings: GoalSettings, stage: Stage, frame: number): number;
  /** The largest zoom that it may take; null where that is not limited. */
  maxZoom(settings: GoalSettings): number | null;
  /** Where the middle of what is held stays, in steadied coordinates; null where it is not put anywhere. */
  place(motion: Pick<Motion, 'pivot'>, settings: GoalSettings, size: Size): Point | null;
}
