import { spotsOf } from '@lurn/model';
import { useKeyTip } from '../../../state/keymap';
import { useBench, useBenchParts } from '../../../state/bench';
import { beginCarryOn, bridgeGap, repairSpan } from '../../../state/repairs';
import { useShot } from '../../../state/shot';
import { pinsRound } from '../../../state/track-targets';
import type { Helpers } from '../stations/station';
import { ByHand } from './ByHand';
import { DeleteSamples } from './DeleteSamples';
import { Doubts } from './Doubts';
import { JoinRow } from './JoinRow';
import { Notes } from './Notes';
import { MendByHand, PIN_SPOTS } from './kinds/MendByHand';
import { Hint, Section } from './Section';

/** What the editor does about places that are wrong, or that the program doubts. */
export function RepairPanel({ tracker, quality }: Helpers) {
  const tip = useKeyTip();
  const { frame, selected, tracking, tool } = useBenchParts('frame', 'selected', 'tracking', 'tool');
  const { document, measured } = useShot((s) => s.state);
  useBench((s) => s.span); // the span in the labels below
  useBench((s) => s.doubtAt);
  const spots = spotsOf(document).filter((s) => selected.includes(s.id));
  const who = document.trackers
    .filter((t) => selected.includes(t.id))
    .map((t) => t.name)
    .join(', ');
  const span = repairSpan();
  const none = spotsOf(document).length === 0;
  const chosen = document.trackers.find((t) => selected.includes(t.id));
  const track = chosen && measured[chosen.id];
  const pins = track ? pinsRound(track, frame) : null;
  return (
    <>
      <Doubts quality={quality} />
      <Notes />
      <Section title="Check">
        <button
          type="button"
          className="btn btn-sm w-full justify-start"
          disabled={tracking !== null || none}
          title={tip('Tracks back over the samples; where the way back differs there is a doubt', 'check')}
          onClick={() => void tracker.checkBack()}
        >
          Check {who || 'all'} by tracking back
        </button>
      </Section>
      <Section title={`Repair ${who || '(select a spot or surface)'}`}>
        {chosen && <MendByHand tracker={chosen} />}
        <button
          type="button"
          className="btn btn-sm w-full justify-start"
          disabled={tracking !== null || !pins}
          title={tip('Follow the picture from both pins and join them', 'track-between')}
          onClick={() => void tracker.between()}
        >
          Track between pins{pins ? ` ${pins[0]} and ${pins[1]}` : ''}
        </button>
        <button
          type="button"
          className="btn btn-sm w-full justify-start"
          disabled={spots.length === 0}
          title={tip('Close the gap with a smooth curve', 'bridge')}
          onClick={bridgeGap}
        >
          {span ? `Bridge frames ${span.from} to ${span.to}` : 'Bridge the gap here'}
        </button>
        <button
          type="button"
          className={`btn btn-sm w-full justify-start ${tool.id === 'carry-on' ? 'btn-primary' : ''}`}
          disabled={spots.length === 0}
          title={tip('Put the patch on another feature of the same thing; the path goes on', 'carry-on')}
          onClick={beginCarryOn}
        >
          {tool.id === 'carry-on' ? 'Press on the other feature …' : 'Carry on elsewhere'}
        </button>
        {!chosen && <Hint>{PIN_SPOTS}</Hint>}
        {chosen && !pins && <Hint>With pins on both sides, the picture can be followed between them.</Hint>}
        {spots.flatMap((s) =>
          s.joins.map((j) => <JoinRow key={`${s.id} ${j.frame}`} id={s.id} name={s.name} frame={j.frame} />),
        )}
      </Section>
      <ByHand />
      <DeleteSamples who={who} />
    </>
  );
}
