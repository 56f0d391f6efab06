import { CLIP, ClipLayer } from './kinds/clip.js';
import { CONCEAL, ConcealLayer } from './kinds/conceal.js';
import { GRAPHIC, GraphicLayer } from './kinds/graphic.js';
import { PAINT, PaintLayer } from './kinds/paint.js';
import { SHAPE, ShapeLayer } from './kinds/shape.js';
import { TEXT, TextLayer } from './kinds/text.js';
import { TINT, TintLayer } from './kinds/tint.js';
import type { LayerRules } from './layer-rules.js';

/** Every kind of layer that there is, with the class that says what it holds. */
export const LAYERS = {
  graphic: GraphicLayer,
  clip: ClipLayer,
  text: TextLayer,
  shape: ShapeLayer,
  paint: PaintLayer,
  conceal: ConcealLayer,
  tint: TintLayer,
} as const;

export type Layer = InstanceType<(typeof LAYERS)[keyof typeof LAYERS]>;
export type LayerKind = keyof typeof LAYERS;
export type LayerOf<K extends LayerKind> = Extract<Layer, { kind: K }>;

const RULES: { readonly [K in LayerKind]: LayerRules<LayerOf<K>> } = {
  graphic: GRAPHIC,
  clip: CLIP,
  text: TEXT,
  shape: SHAPE,
  paint: PAINT,
  conceal: CONCEAL,
  tint: TINT,
};

/** What a document asks of a layer, by its kind. */
export const layerRules = ({ kind }: Pick<Layer, 'kind'>) => RULES[kind] as LayerRules<Layer>;

export * from './asset.js';
export type { LayerKeyframe } from './base.js';
export { LayerOutline } from './layer-outline.js';
export { type LayerMatte, matteRules } from './mattes/index.js';
export { NEW_RANGE, PickedRange, rangeOf } from './picked-range.js';
export { ON_FRAME, Rides } from './rides.js';
export * from './new-layers.js';
export { filmSource, type RasterSource } from './raster-source.js';
export type { ShownLayer } from './layer-rules.js';
export { EdgeSettings, NEW_EDGE } from './placed-layer.js';
export { NEW_TEXT_STYLE, TextStyle } from './text-style.js';
export { PaintStroke } from './kinds/paint.js';
export { NEW_CONCEAL } from './kinds/conceal.js';
export { NEW_TINT } from './kinds/tint.js';
export { ClipLayer, ConcealLayer, GraphicLayer, PaintLayer, ShapeLayer, TextLayer, TintLayer };
