/** Layers over pictures: scenes, mattes, drawing them into planes. */

export { rangeShare, type ColourRange } from '../compose/colour-range.js';
export type { Blend } from '../compose/blend.js';
export { filmKey, filmOf, innerOf, type Raster } from '../compose/raster.js';
export type { SceneLayer } from '../compose/layer.js';
export { carry, type Ride, toFlat } from '../compose/ride.js';
export type { Unknown } from '../compose/rides/ride-kind.js';
export { keyedAt, type LookContent, type LookLayer } from '../compose/look-layer.js';
export type { LookMatte } from '../compose/matte.js';
export type { LookOutline } from '../compose/outline.js';
export { boxOfStrokes, paintStrokes, type Stroke, type StrokeBox } from '../compose/strokes.js';
export { type RasterEdge, withEdge } from '../compose/raster-edge.js';
export {
  borrowFor,
  framesOf,
  framesOfLayer,
  givenBack,
  type Scene,
  type SceneLook,
  rastersOf,
  sceneOf,
  sceneThrough,
} from '../compose/scene.js';
export { compose } from '../compose/compose.js';
export { CleanPlate, FEWEST_FOR_PLATE, framesForPlate, plateWarp } from '../compose/clean-plate.js';
