export * from './align.js';
export * from './alignment-sums.js';
export * from './correlation.js';
export * from './halve.js';
export { isKernelBytes, kernelBytes, kernels, kernelsMissing, plainly } from './instance.js';
export type { BytePlane } from './plane.js';
export * from './seen-patch.js';
export { sampleUpright, splineShaped, splineUpright, wideOf, type Grid, type Shape } from './spline.js';
export { PHASES, SPLINE_TABLE, splineWeights, tableOf } from './spline-weights.js';
