import { Eye, Pipette } from 'lucide-react';
import { useEffect } from 'react';
import type { PickedRange } from '@lurn/model';
import { Check } from '../../../../components/Check';
import { Slider } from '../../../../components/Slider';
import { bench, setBench, useBenchParts } from '../../../../state/bench';
import { ColourField } from './fields';

/** A range of colours, near one that is picked. @param matte  whose range it is; null for the layer's own */
export function RangeFields({
  layer,
  matte,
  range,
  onChange,
}: {
  readonly layer: string;
  readonly matte: string | null;
  readonly range: PickedRange;
  readonly onChange: (range: PickedRange) => void;
}) {
  return (
    <>
      <ColourField label="Near" value={range.colour} onChange={(colour) => onChange({ ...range, colour })} />
      <div className="grid grid-cols-2 gap-1.5">
        <PickButton layer={layer} matte={matte} />
        <MaskButton layer={layer} matte={matte} />
      </div>
      <ReachSliders label="Reach" of={range} max={100} onChange={(part) => onChange({ ...range, ...part })} />
      <Check checked={range.brightness} onChange={(on) => onChange({ ...range, brightness: on })}>
        Brightness alone
      </Check>
    </>
  );
}

/** How far something reaches and over how much more it fades, in per cent; further by typing. */
export function ReachSliders({
  label,
  of,
  max,
  onChange,
}: {
  readonly label: string;
  readonly of: Pick<PickedRange, 'reach' | 'soften'>;
  readonly max: number;
  readonly onChange: (part: Partial<Pick<PickedRange, 'reach' | 'soften'>>) => void;
}) {
  const slider = (part: 'reach' | 'soften', name: string, most: number) => (
    <Slider
      label={name}
      unit="%"
      value={of[part] * 100}
      min={0}
      max={max}
      most={most}
      onChange={(v) => onChange({ [part]: v / 100 })}
    />
  );
  const most = max < 100 ? 100 : 2 * max;
  return (
    <>
      {slider('reach', label, most)}
      {slider('soften', 'Soft', most)}
    </>
  );
}

/** Takes the next colour that is pressed on in the picture. */
export function PickButton({ layer, matte }: { readonly layer: string; readonly matte: string | null }) {
  const { tool } = useBenchParts('tool');
  const picking = tool.id === 'pick' && tool.matte === matte;
  return (
    <button
      type="button"
      className={`btn btn-xs ${picking ? 'btn-primary' : ''}`}
      aria-pressed={picking}
      title="Press on the colour in the picture"
      onClick={() => setBench({ tool: picking ? { id: 'mark' } : { id: 'pick', layer, matte } })}
    >
      <Pipette size={12} aria-hidden="true" />
      Pick it
    </button>
  );
}

/** Shows where a matte or a tint takes hold. */
export function MaskButton({ layer, matte }: { readonly layer: string; readonly matte: string | null }) {
  const { masked } = useBenchParts('masked');
  const shown = masked?.layer === layer && masked.matte === matte;
  // Nothing is left masked when its button goes.
  useEffect(
    () => () => {
      const now = bench().masked;
      if (now?.layer === layer && now.matte === matte) setBench({ masked: null });
    },
    [layer, matte],
  );
  return (
    <button
      type="button"
      className={`btn btn-xs ${shown ? 'btn-primary' : ''}`}
      aria-pressed={shown}
      title="Shows in green where it takes hold"
      onClick={() => setBench({ masked: shown ? null : { layer, matte } })}
    >
      <Eye size={12} aria-hidden="true" />
      Show where
    </button>
  );
}
