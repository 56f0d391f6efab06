import { Check, ChevronLeft, ChevronRight } from 'lucide-react';
import { useState } from 'react';
import { EMPTY_TRACK } from '@lurn/core';
import { NumberField } from '../../../components/NumberField';
import { IconButton } from '../../../components/Tip';
import { deleteSamples } from '../../../state/acts';
import { setBench, useBench, useBenchParts } from '../../../state/bench';
import type { Looker } from '../../../state/looking';
import {
  applyTaming,
  beginCarryOn,
  bridgeGap,
  itIsFine,
  moveJoin,
  nextDoubt,
  previewTaming,
  repairSpan,
  undoJoin,
} from '../../../state/repairs';
import { useShot } from '../../../state/shot';
import { pinsRound, type Tracker } from '../../../state/tracking';
import { DoubtsList } from './DoubtsList';
import { Hint, Section } from './Section';

export function RepairPanel({ tracker, looker }: { readonly tracker: Tracker; readonly looker: Looker }) {
  const { frame, info, selected, doubts, tracking, tool } = useBenchParts(
    'frame',
    'info',
    'selected',
    'doubts',
    'tracking',
    'tool',
  );
  const { document, tracks } = useShot((s) => s.state);
  useBench((s) => s.span); // the span in the labels below
  useBench((s) => s.doubtAt);
  const spots = document.spots.filter((s) => selected.includes(s.id));
  const who = spots.map((s) => s.name).join(', ');
  const span = repairSpan();
  const none = document.spots.length === 0;
  const pins = spots.length > 0 ? pinsRound(tracks[spots[0].id] ?? EMPTY_TRACK, frame) : null;
  return (
    <>
      <Section title={doubts.length > 0 ? `Doubts, worst first: ${doubts.length}` : 'Doubts'}>
        {doubts.length === 0 ? (
          <Hint>
            {none || Object.keys(tracks).length === 0
              ? 'Places that the program does not trust will be listed here once spots are tracked.'
              : 'None: every sample can be trusted as far as the program can tell.'}
          </Hint>
        ) : (
          <>
            <div className="flex items-center gap-1">
              <IconButton label="Previous doubt" keys="Shift Z" onClick={() => nextDoubt(-1)}>
                <ChevronLeft size={15} />
              </IconButton>
              <IconButton label="Next doubt" keys="Z" onClick={() => nextDoubt(1)}>
                <ChevronRight size={15} />
              </IconButton>
              <button
                type="button"
                className="btn btn-xs grow"
                title="It is fine: off the list (O)"
                onClick={itIsFine}
              >
                <Check size={12} /> It is fine
              </button>
            </div>
            <DoubtsList looker={looker} />
          </>
        )}
      </Section>
      <Section title="Check">
        <button
          type="button"
          className="btn btn-sm w-full justify-start"
          disabled={tracking !== null || none}
          title="Tracks back over the samples; where the way back differs there is a doubt (Shift O)"
          onClick={() => void tracker.checkBack()}
        >
          Check {who || 'all'} by tracking back
        </button>
      </Section>
      <Section title={`Repair ${who || '(select a spot)'}`}>
        <button
          type="button"
          className="btn btn-sm w-full justify-start"
          disabled={tracking !== null || !pins}
          title="Follow the picture from both pins and join them (Shift B)"
          onClick={() => void tracker.between()}
        >
          Track between pins{pins ? ` ${pins[0]} and ${pins[1]}` : ''}
        </button>
        <button
          type="button"
          className="btn btn-sm w-full justify-start"
          disabled={spots.length === 0}
          title="Close the gap with a smooth curve (P)"
          onClick={bridgeGap}
        >
          {span ? `Bridge frames ${span.from} to ${span.to}` : 'Bridge the gap here'}
        </button>
        <button
          type="button"
          className={`btn btn-sm w-full justify-start ${tool?.kind === 'carryOn' ? 'btn-primary' : ''}`}
          disabled={spots.length === 0}
          title="Put the patch on another feature of the same thing; the path goes on (Shift C)"
          onClick={beginCarryOn}
        >
          {tool?.kind === 'carryOn' ? 'Press on the other feature …' : 'Carry on elsewhere'}
        </button>
        <Hint>
          Drag or nudge a spot where it is wrong: it is pinned there, and the program never moves a pin.
          {!pins && ' With pins on both sides, the picture can be followed between them.'}
        </Hint>
        {spots.flatMap((s) =>
          s.joins.map((j) => <JoinRow key={`${s.id} ${j.frame}`} id={s.id} name={s.name} frame={j.frame} />),
        )}
      </Section>
      <ByHand />
      <Section title={`Delete samples of ${who || 'all spots'}`}>
        <div className="grid grid-cols-2 gap-1.5">
          <button
            type="button"
            className="btn btn-sm"
            disabled={none}
            onClick={() => deleteSamples(frame, frame)}
          >
            Frame {frame}
          </button>
          <button
            type="button"
            className="btn btn-sm"
            disabled={none || !span}
            title="The frames chosen on the ribbons, or of the doubt"
            onClick={() => span && deleteSamples(span.from, span.to)}
          >
            {span ? `${span.from} to ${span.to}` : 'The span'}
          </button>
          <button
            type="button"
            className="btn btn-sm"
            disabled={none}
            onClick={() => deleteSamples(frame, info.frames - 1)}
          >
            From {frame} on
          </button>
          <button
            type="button"
            className="btn btn-sm"
            disabled={none}
            onClick={() => deleteSamples(0, frame)}
          >
            Up to {frame}
          </button>
        </div>
        <Hint>Pins go too. Ctrl Z brings them back. Shift and drag on a ribbon chooses a span.</Hint>
      </Section>
    </>
  );
}

/** A place where a path carries on with another feature; it can be moved along time. */
function JoinRow({
  id,
  name,
  frame,
}: {
  readonly id: string;
  readonly name: string;
  readonly frame: number;
}) {
  const last = useBench((s) => s.info.frames - 1);
  return (
    <div className="flex items-center gap-1">
      <div className="grow">
        <NumberField
          label={`${name} carries on at`}
          value={frame}
          min={0}
          max={last}
          onChange={(to) => moveJoin(id, frame, to)}
        />
      </div>
      <button
        type="button"
        className="btn btn-ghost btn-xs"
        title="Back to the first feature"
        onClick={() => undoJoin(id, frame)}
      >
        Undo
      </button>
    </div>
  );
}

/** Placing a spot by hand, frame after frame, and taming the jitter of a hand. */
function ByHand() {
  const { tool, preview, selected } = useBenchParts('tool', 'preview', 'selected');
  const [step, setStep] = useState(1);
  const [amount, setAmount] = useState(0);
  const on = tool?.kind === 'byHand';
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
              if (on) setBench({ tool: { kind: 'byHand', step: v } });
            }}
          />
        </div>
      </div>
      <button
        type="button"
        className={`btn btn-sm w-full justify-start ${on ? 'btn-primary' : ''}`}
        disabled={selected.length === 0}
        title="Each press on the picture pins the selected spot there and steps on (Shift N)"
        onClick={() => setBench({ tool: on ? null : { kind: 'byHand', step } })}
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
