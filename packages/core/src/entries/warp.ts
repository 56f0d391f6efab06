/** Drawing planes through warps, with edges and what is borrowed for them. */

export { coverage, halvingsFor, isWide, SHRINK_FROM, warpPlane, WIDEST } from '../warp/warp-plane.js';
export { type EdgeMode, fold } from '../warp/edges.js';
export { borrowPlane, type Donor, donorOffset, featherOf } from '../warp/borrow.js';
export { chromaToLuma, chromaWarp } from '../warp/chroma.js';
export { type SurfaceLook, SurfaceLooker } from '../warp/flattened.js';
