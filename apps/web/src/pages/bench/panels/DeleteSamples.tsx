import { deleteSamples } from '../../../state/edit-spots';
import { useBench, useBenchParts } from '../../../state/bench';
import { repairSpan } from '../../../state/repairs';
import { useShot } from '../../../state/shot';
import { Hint, Section } from './Section';

/** Deletes samples of what is selected: here, over the chosen span, or to either end. */
export function DeleteSamples({ who }: { readonly who: string }) {
  const { frame, info } = useBenchParts('frame', 'info');
  const none = useShot((s) => s.state.document.trackers.length === 0);
  useBench((s) => s.span); // the span in the labels below
  useBench((s) => s.doubtAt);
  const span = repairSpan();
  return (
    <Section title={`Delete samples of ${who || 'all'}`}>
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
        <button type="button" className="btn btn-sm" disabled={none} onClick={() => deleteSamples(0, frame)}>
          Up to {frame}
        </button>
      </div>
      <Hint>Pins go too. Ctrl Z brings them back. Shift and drag on a ribbon chooses a span.</Hint>
    </Section>
  );
}
