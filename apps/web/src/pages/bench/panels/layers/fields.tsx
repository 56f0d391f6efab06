import { LIMITS, type LayerOutline } from '@lurn/model';
import { Check } from '../../../../components/Check';
import { NumberField } from '../../../../components/NumberField';
import { plural } from '../../../../lib/format';
import { setBench, useBenchParts } from '../../../../state/bench';
import { beginGesture, endGesture } from '../../../../state/shot';

/** What a field that is dragged does to undo: all of the drag is one step. */
export const dragging = { onDragStart: beginGesture, onDragEnd: endGesture };

export function ColourField({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (colour: string) => void;
}) {
  return (
    <label className="flex items-center gap-2">
      <span className="grow">{label}</span>
      <input
        type="color"
        className="h-6 w-10 cursor-pointer"
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}

/** How a drawn edge runs, and whether what is changed of it is keyed. */
export function OutlineFields({
  outline,
  onChange,
}: {
  readonly outline: LayerOutline;
  readonly onChange: (outline: LayerOutline) => void;
}) {
  const { keying } = useBenchParts('keying');
  return (
    <>
      <NumberField
        label="Soft edge"
        unit="px"
        value={outline.soften}
        min={LIMITS.fade[0]}
        max={LIMITS.fade[1]}
        decimals={1}
        {...dragging}
        onChange={(soften) => onChange({ ...outline, soften })}
      />
      <NumberField
        label="Larger by"
        unit="px"
        value={outline.grow}
        min={LIMITS.grow[0]}
        max={LIMITS.grow[1]}
        decimals={1}
        {...dragging}
        onChange={(grow) => onChange({ ...outline, grow })}
      />
      <Check
        title="What is dragged of its shape is a key on this frame; between keys it goes in a line"
        checked={keying || outline.keys.length > 1}
        disabled={outline.keys.length > 1}
        onChange={(on) => setBench({ keying: on })}
      >
        {outline.keys.length > 1
          ? `Its shape is keyed on ${plural(outline.keys.length, 'frame')}`
          : 'Key its shape'}
      </Check>
    </>
  );
}
