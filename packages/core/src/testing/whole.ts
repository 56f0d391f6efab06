/** Everything that core's entries give, for tests of the other packages. */
export * from '../index.js';
export * from '../entries/compose.js';
export * from '../entries/doubt.js';
export * from '../entries/drawing.js';
export * from '../entries/formats.js';
export * from '../entries/geometry.js';
export * from '../entries/measure.js';
export * from '../entries/picture.js';
export * from '../entries/plan.js';
export * from '../entries/scene.js';
export * from '../entries/solve.js';
export * from '../entries/track.js';
export * from '../entries/warp.js';
