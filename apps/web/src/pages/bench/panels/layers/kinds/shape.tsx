import { Circle } from 'lucide-react';
import type { ShapeLayer } from '@lurn/model';
import { change } from '../../../../../state/layers';
import { ColourField, OutlineFields } from '../fields';
import type { LayerView } from './layer-view';

function ShapeFields({ layer }: { readonly layer: ShapeLayer }) {
  const { id, colour, outline } = layer;
  return (
    <>
      <ColourField label="Colour" value={colour} onChange={(c) => change(id, { colour: c })} />
      <OutlineFields outline={outline} onChange={(o) => change(id, { outline: o })} />
    </>
  );
}

export const SHAPE_VIEW: LayerView<ShapeLayer> = {
  icon: Circle,
  Fields: ShapeFields,
  begin: { text: 'Shape …', title: 'Draw a shape of one colour', by: 'drawing' },
};
