import type { ShapeLayer } from '@lurn/model';
import { change } from '../../../../state/layers';
import { ColourField, OutlineFields } from './fields';

export function ShapeFields({ layer }: { readonly layer: ShapeLayer }) {
  const { id, colour, outline } = layer;
  return (
    <>
      <ColourField label="Colour" value={colour} onChange={(c) => change(id, { colour: c })} />
      <OutlineFields outline={outline} onChange={(o) => change(id, { outline: o })} />
    </>
  );
}
