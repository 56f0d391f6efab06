export { align, sample } from './align';
export { alignmentSums, cellResiduals, patchSums } from './alignment-sums';
export { correlationSums } from './correlation';
export { halve } from './halve';
export { cubicRow, evenRow } from './cubic';
export { boxHalf } from './box-half';
export { surfaceSums } from './surface-sums';
export { rasterRow, rasterRowBetween } from './raster-row';
export { pixelRow } from './pixel-row';
