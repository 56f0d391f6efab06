import { Palette } from 'lucide-react';
import { NEW_RANGE, type TintLayer } from '@lurn/model';
import { Check } from '../../../../../components/Check';
import { Slider } from '../../../../../components/Slider';
import { change } from '../../../../../state/layers';
import { OutlineFields } from '../fields';
import { RangeFields } from '../RangeFields';
import type { LayerView } from './layer-view';

function TintFields({ layer }: { readonly layer: TintLayer }) {
  const { id, hue, saturation, lightness, exposure, colours, outline } = layer;
  return (
    <>
      <Slider
        label="Hue"
        unit="°"
        value={hue}
        min={-180}
        max={180}
        onChange={(v) => change(id, { hue: v })}
      />
      <Slider
        label="Saturation"
        unit="%"
        value={saturation * 100}
        min={0}
        max={200}
        most={400}
        onChange={(v) => change(id, { saturation: v / 100 })}
      />
      <Slider
        label="Lightness"
        unit="%"
        value={lightness * 100}
        min={-100}
        max={100}
        onChange={(v) => change(id, { lightness: v / 100 })}
      />
      <Slider
        label="Exposure"
        unit="EV"
        value={exposure}
        min={-3}
        max={3}
        step={0.1}
        decimals={1}
        onChange={(v) => change(id, { exposure: v })}
      />
      <Check
        checked={colours !== null}
        onChange={(on) =>
          change(id, {
            colours: on ? NEW_RANGE : null,
          })
        }
      >
        Some colours only
      </Check>
      {colours && (
        <RangeFields layer={id} matte={null} range={colours} onChange={(c) => change(id, { colours: c })} />
      )}
      {outline && <OutlineFields outline={outline} onChange={(o) => change(id, { outline: o })} />}
    </>
  );
}

export const TINT_VIEW: LayerView<TintLayer> = {
  icon: Palette,
  Fields: TintFields,
  begin: { text: 'Tint …', title: 'Draw round what is to have other colours', by: 'drawing' },
};
