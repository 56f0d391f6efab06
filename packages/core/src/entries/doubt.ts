/** Places that are not to be trusted, with their reasons. */

export {
  type AcceptedDoubt,
  type Doubt,
  type DoubtedSpot,
  type DoubtReason,
  edgeDoubts,
  type Judgement,
  judgeSpots,
  judgeSurfaces,
  WEAK,
} from '../doubt/doubts.js';
export { judgeSoft } from '../doubt/soft/soft-doubts.js';
export { type DoubtGroup, groupDoubts, orderDoubts, sameDoubt } from '../doubt/group-doubts.js';
export { heldDoubts } from '../doubt/held-doubts.js';
export { rideDoubts } from '../doubt/ride-doubts.js';
