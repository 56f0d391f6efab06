import { VenetianMask } from 'lucide-react';
import { LIMITS, type ConcealLayer } from '@lurn/model';
import { NumberField } from '../../../../../components/NumberField';
import { Segments } from '../../../../../components/Segments';
import { Slider } from '../../../../../components/Slider';
import { change } from '../../../../../state/layers';
import { ColourField, OutlineFields, dragging } from '../fields';
import type { LayerView } from './layer-view';

function ConcealFields({ layer }: { readonly layer: ConcealLayer }) {
  const { id, how, size, colour, outline, margin } = layer;
  return (
    <>
      <Segments
        label="How"
        value={how}
        options={{ blur: 'Blur', squares: 'Squares', colour: 'Colour' }}
        onChange={(v) => change(id, { how: v })}
      />
      {how === 'colour' ? (
        <ColourField label="Colour" value={colour} onChange={(c) => change(id, { colour: c })} />
      ) : (
        <Slider
          label={how === 'blur' ? 'Radius' : 'Side'}
          unit="px"
          value={size}
          min={LIMITS.conceal[0]}
          max={60}
          most={LIMITS.conceal[1]}
          onChange={(v) => change(id, { size: v })}
        />
      )}
      <OutlineFields outline={outline} onChange={(o) => change(id, { outline: o })} />
      <NumberField
        label="More where less sure"
        unit="px"
        value={margin}
        min={LIMITS.fade[0]}
        max={LIMITS.fade[1]}
        decimals={1}
        {...dragging}
        onChange={(v) => change(id, { margin: v })}
      />
    </>
  );
}

export const CONCEAL_VIEW: LayerView<ConcealLayer> = {
  icon: VenetianMask,
  Fields: ConcealFields,
  begin: { text: 'Conceal …', title: 'Draw round a face, a plate, a mark', by: 'drawing' },
};
