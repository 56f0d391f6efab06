export * from './align.js';
export * from './alignment-sums.js';
export * from './banded.js';
export * from './box-half.js';
export * from './correlation.js';
export * from './cubic.js';
export * from './halve.js';
export {
  isKernelBytes,
  kernelBytes,
  kernelDoubles,
  kernelFloats,
  kernels,
  kernelsMissing,
  plainly,
} from './instance.js';
export * from './node-pairs.js';
export type { BytePlane } from './plane.js';
export * from './pixel-row.js';
export * from './raster-row.js';
export * from './seen-patch.js';
export * from './surface-sums.js';
export { sampleUpright, splineShaped, splineUpright, wideOf, type Grid, type Shape } from './spline.js';
export { cubic, sampleWide, WIDEST } from './wide.js';
export { CUBIC_TABLE, cubicWeights, PHASES, SPLINE_TABLE, splineWeights } from './weights.js';
