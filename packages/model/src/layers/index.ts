import {
  ClipLayer,
  ConcealLayer,
  GraphicLayer,
  PaintLayer,
  ShapeLayer,
  TextLayer,
  TintLayer,
} from './kinds.js';

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

export * from './base.js';
export * from './kinds.js';
export * from './new-layers.js';
