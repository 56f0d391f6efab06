import { deleteSamples } from '../../../state/acts';
import { useBench } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import { Hint, Section } from './Section';

export function RepairPanel() {
  const { frame, info, selected } = useBench();
  const { document } = useShot((s) => s.state);
  const who =
    document.spots
      .filter((s) => selected.includes(s.id))
      .map((s) => s.name)
      .join(', ') || 'all spots';
  const none = document.spots.length === 0;
  return (
    <>
      <Section title="Put it back by hand">
        <Hint>
          Go to the frame where a spot went astray and drag it back: it is pinned there, and tracking on (T)
          follows from the pin. The program never moves a pin.
        </Hint>
      </Section>
      <Section title={`Delete samples of ${who}`}>
        <div className="grid gap-1.5">
          <button
            type="button"
            className="btn btn-sm"
            disabled={none}
            onClick={() => deleteSamples(frame, frame)}
          >
            On frame {frame}
          </button>
          <button
            type="button"
            className="btn btn-sm"
            disabled={none}
            onClick={() => deleteSamples(frame, info.frames - 1)}
          >
            From frame {frame} on
          </button>
          <button
            type="button"
            className="btn btn-sm"
            disabled={none}
            onClick={() => deleteSamples(0, frame)}
          >
            Up to frame {frame}
          </button>
        </div>
        <Hint>Pins go too. Ctrl Z brings them back.</Hint>
      </Section>
    </>
  );
}
