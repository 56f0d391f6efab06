/** Goals, paths and framing: from a motion to what every frame is drawn by. */

export { smoothGaussian } from '../smooth/gaussian.js';
export { cutAtEdges } from '../plan/cut-at-edges.js';
export { heldMotion, type HeldMotion, ridersOf } from '../plan/held-motion.js';
export { firstGoal, type FirstGoal } from '../plan/first-goal.js';
export { asShotFrom, deliveredFrom, steadiedPlace } from '../plan/plan-to-source.js';
export { nothingToHold } from '../plan/nothing-to-hold.js';
export { rehearsed } from '../plan/rehearsed.js';
export { againstHeld, type AgainstHeld } from '../plan/against-held.js';
export type { Size } from '../framing/framing.js';
export {
  type Amounts,
  type CalmSettings,
  type Easing,
  type Goal,
  type GoalKey,
  type GoalSettings,
  type LockSettings,
  stateAt,
} from '../plan/goals.js';
export { goalKind } from '../plan/goal-kinds.js';
export { lockPlace } from '../plan/lock-goal.js';
export { pathFor } from '../plan/path.js';
export {
  deliveryInSource,
  framingInSource,
  type FramingRequest,
  mostZoom,
  pictureInSource,
  type Plan,
  planFor,
  planFrom,
  type PlanRequest,
  type PlanSpot,
  planSteps,
  type ShotRequest,
  type SolveRequest,
} from '../plan/plan.js';
export { type Trade, type TradePoint, tradeSteps } from '../plan/trade.js';
export { notesOn } from '../plan/notes.js';
