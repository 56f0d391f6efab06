import { useState } from 'react';
import { NumberField } from '../../../components/NumberField';
import { useKeyTip } from '../../../state/keymap';
import { setBench, useBenchParts } from '../../../state/bench';
import { applyTaming, previewTaming } from '../../../state/repairs';
import { Hint, Section } from './Section';

/** Placing a spot by hand, frame after frame, and taming the jitter of a hand. */
export function ByHand() {
  const tip = useKeyTip();
  const { tool, preview, selected } = useBenchParts('tool', 'preview', 'selected');
  const [step, setStep] = useState(1);
  const [amount, setAmount] = useState(0);
  const on = tool.id === 'by-hand';
  return (
    <Section title="By hand">
      <div className="flex items-end gap-2">
        <div className="grow">
          <NumberField
            label="Then step on by"
            unit="fr"
            value={step}
            min={-50}
            max={50}
            onChange={(v) => {
              setStep(v);
              if (on) setBench({ tool: { id: 'by-hand', step: v } });
            }}
          />
        </div>
      </div>
      <button
        type="button"
        className={`btn btn-sm w-full justify-start ${on ? 'btn-primary' : ''}`}
        title={tip(
          'Each press on the picture pins the selected spot there and steps on; it makes one where there is none',
          'by-hand',
        )}
        onClick={() => setBench({ tool: on ? { id: 'mark' } : { id: 'by-hand', step } })}
      >
        {on ? 'Placing by hand: press here to end' : 'Place by hand'}
      </button>
      <NumberField
        label="Tame the hand’s jitter"
        unit="%"
        value={amount}
        min={0}
        max={100}
        step={5}
        disabled={selected.length === 0}
        onChange={(v) => {
          setAmount(v);
          previewTaming(v / 100);
        }}
      />
      {preview && (
        <div className="flex gap-1.5">
          <button
            type="button"
            className="btn btn-primary btn-xs grow"
            onClick={() => {
              applyTaming();
              setAmount(0);
            }}
          >
            Apply what the curve shows
          </button>
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => {
              setBench({ preview: null });
              setAmount(0);
            }}
          >
            Drop
          </button>
        </div>
      )}
      <Hint>Between placed frames: bridge for a smooth curve, or track between pins.</Hint>
    </Section>
  );
}
