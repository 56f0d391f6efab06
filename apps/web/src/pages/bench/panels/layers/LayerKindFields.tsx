import type { ComponentType } from 'react';
import type { Layer, LayerKind } from '@lurn/model';
import { ClipFields } from './ClipFields';
import { ConcealFields } from './ConcealFields';
import { GraphicFields } from './GraphicFields';
import { PaintFields } from './PaintFields';
import { ShapeFields } from './ShapeFields';
import { TextFields } from './TextFields';
import { TintFields } from './TintFields';

type FieldsOf<K extends LayerKind> = ComponentType<{ readonly layer: Extract<Layer, { kind: K }> }>;

/** What only layers of a kind have. */
const FIELDS: { readonly [K in LayerKind]: FieldsOf<K> } = {
  graphic: GraphicFields,
  clip: ClipFields,
  text: TextFields,
  shape: ShapeFields,
  paint: PaintFields,
  conceal: ConcealFields,
  tint: TintFields,
};

export function LayerKindFields({ layer }: { readonly layer: Layer }) {
  const Fields = FIELDS[layer.kind] as ComponentType<{ readonly layer: Layer }>;
  return <Fields layer={layer} />;
}
