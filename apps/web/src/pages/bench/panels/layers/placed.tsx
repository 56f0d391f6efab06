import { LIMITS, surfaceById, type ClipLayer, type GraphicLayer, type TextLayer } from '@lurn/model';
import { NumberField } from '../../../../components/NumberField';
import { change, fillQuad } from '../../../../state/layers';
import { useRasterFaults } from '../../../../state/rasters';
import { useShot } from '../../../../state/shot';
import { Fold } from '../Section';
import { dragging } from './fields';

export function EdgeFields({ layer }: { readonly layer: GraphicLayer | TextLayer }) {
  const { id, edge } = layer;
  const field = (part: keyof typeof edge, label: string, range: readonly [number, number]) => (
    <NumberField
      label={label}
      unit="px"
      value={edge[part]}
      min={range[0]}
      max={range[1]}
      decimals={1}
      {...dragging}
      onChange={(v) => change(id, { edge: { ...edge, [part]: v } })}
    />
  );
  return (
    <Fold title="Its edge">
      {field('grow', 'Larger by', LIMITS.grow)}
      {field('soften', 'Soft edge', LIMITS.fade)}
      {field('blur', 'Blur', LIMITS.fade)}
    </Fold>
  );
}

/** Why what it shows cannot be had, if so. */
export function Fault({ of }: { readonly of: string }) {
  const faults = useRasterFaults((s) => s.faults);
  const key = Object.keys(faults).find((k) => k.includes(of));
  return key ? <p className="text-xs text-error">▲ {faults[key]}</p> : null;
}

export function FillQuad({ layer }: { readonly layer: GraphicLayer | ClipLayer | TextLayer }) {
  const surface = useShot((s) => surfaceById(s.state.document, layer.rides.id));
  if (!surface) return null;
  return (
    <button type="button" className="btn btn-xs" onClick={() => fillQuad(layer.id)}>
      Fill the quad of {surface.name}
    </button>
  );
}
