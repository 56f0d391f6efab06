/** Motions out of measurements: what is held, movers, masks of what moves. */

export type { SolveSoft } from '../solve/soft/soft-motion.js';
export { motionMatrix, type Role } from '../solve/motion.js';
export { openTracks, placedAreas, type RidingArea } from '../solve/areas.js';
export { type Regroup, regrouped } from '../solve/regroup.js';
export { solveMotion } from '../solve/solve-motion.js';
export { perspectiveOfMover } from '../solve/perspective.js';
export { analyse, type AnalysedScene } from '../solve/analysed.js';
export {
  FineMasks,
  framesForMasks,
  halvingsForMasks,
  moverMasks,
  moverOn,
  type MaskPicture,
  type MoverMasks,
} from '../solve/mover-masks.js';
