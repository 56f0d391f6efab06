/** Planes of samples, their colours and light, and pyramids of them. */

export {
  createPlane,
  type Plane,
  planeOver,
  type QuarterTurns,
  type Samples,
  turnPlane,
} from '../picture/plane.js';
export type { ChromaSiting, Subsampling } from '../picture/subsampling.js';
export {
  type ColourCode,
  colourInPlanes,
  lumaWeights,
  parseColour,
  PlaneCoding,
  spaceNamed,
} from '../picture/colour.js';
export { type Channel, channelPlane, type ColourPlanes } from '../picture/channel.js';
export { type Eye, filterEye, PLAIN_EYE } from '../picture/eye.js';
export { measureNoise } from '../picture/noise.js';
export { boxMean } from '../picture/guided-filter.js';
export { halvedPlane, Pyramid } from '../picture/pyramid.js';
export { lightTable } from '../picture/transfer.js';
export { isHdr, type LightCode, LUMA_2020, TONE, ToneMap } from '../picture/tone-map.js';
export { graphicsOutOf } from '../picture/graphics-light.js';
export type { Rgb } from '../picture/rgb.js';
