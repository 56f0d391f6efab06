/**
 * What drawing a scene into planes takes, without the rest of the package: a thread that only draws is there in a fifth of
 * the time.
 */
export { toWire, type WireError } from '../errors.js';
export { deepPlaneOver, planeOver } from '../picture/plane.js';
export type { ChromaSiting } from '../picture/subsampling.js';
export { compose, type ComposeLook } from '../compose/compose.js';
export type { PicturePlanes } from '../compose/picture-planes.js';
export { filmOf, type Raster } from '../compose/raster.js';
export type { Scene } from '../compose/scene.js';
