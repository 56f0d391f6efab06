/** Layers over pictures: scenes, mattes, drawing them into planes. */

export { rangeShare } from '../compose/matte.js';
export type { Blend } from '../compose/blend.js';
export {
  type ColourRange,
  filmKey,
  filmOf,
  innerOf,
  type Raster,
  type SceneLayer,
} from '../compose/layer.js';
export { carry, type Ride, toFlat } from '../compose/ride.js';
export type { Unknown } from '../compose/rides/ride-kind.js';
export {
  keyedAt,
  type LookContent,
  type LookLayer,
  type LookMatte,
  type LookOutline,
} from '../compose/look-layer.js';
export { boxOfStrokes, paintStrokes, type Stroke, type StrokeBox } from '../compose/strokes.js';
export { type RasterEdge, withEdge } from '../compose/raster-edge.js';
export {
  borrowFor,
  framesOf,
  framesOfLayer,
  givenBack,
  type Scene,
  type SceneLook,
  sceneOf,
  sceneThrough,
} from '../compose/scene.js';
export { compose } from '../compose/compose.js';
export { CleanPlate, FEWEST_FOR_PLATE, framesForPlate, plateWarp } from '../compose/clean-plate.js';
