import { Clapperboard } from 'lucide-react';
import type { ClipLayer } from '@lurn/model';
import { NumberField } from '../../../../../components/NumberField';
import { Segments } from '../../../../../components/Segments';
import { plural } from '../../../../../lib/format';
import { change } from '../../../../../state/layers';
import { useShot } from '../../../../../state/shot';
import { Fault, FillQuad } from '../placed';
import { dragging } from '../fields';
import type { LayerView } from './layer-view';

function ClipFields({ layer }: { readonly layer: ClipLayer }) {
  const { id, play, first } = layer;
  const asset = useShot((s) => s.state.document.assets.find((a) => a.hash === layer.asset))!;
  return (
    <>
      <p className="quiet num truncate text-xs" title={asset.name}>
        {asset.name}, {asset.width} × {asset.height} px, {plural(asset.frames, 'frame')}
      </p>
      <Fault of={layer.asset} />
      <Segments
        label="Plays"
        value={play}
        options={{ step: 'In step', loop: 'Round', frozen: 'Stands' }}
        onChange={(v) => change(id, { play: v })}
      />
      <NumberField
        label={play === 'frozen' ? 'Its frame' : `Its frame on frame ${layer.frame}`}
        value={first}
        min={0}
        max={asset.frames - 1}
        decimals={0}
        {...dragging}
        onChange={(v) => change(id, { first: Math.round(v) })}
      />
      <FillQuad layer={layer} />
    </>
  );
}

export const CLIP_VIEW: LayerView<ClipLayer> = {
  icon: Clapperboard,
  Fields: ClipFields,
};
