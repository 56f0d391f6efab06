import { spotById, spotsOf } from '@lurn/model';
import { setBench, useBench } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import type { Helpers } from '../stations/station';
import { Areas } from './Areas';
import { Following } from './Following';
import { Hint, Section } from './Section';
import { SpotDetails } from './SpotDetails';
import { SpotTable } from './SpotTable';
import { SURFACE_PANELS } from './kinds/surface-panels';
import { Suggestions } from './Suggestions';
import { TrackersEye } from './TrackersEye';

/** What there is to track: the spots, what is known of the selected one, and where others would hold. */
export function MarkPanel({ quality }: Helpers) {
  const { document } = useShot((s) => s.state);
  const selected = useBench((s) => s.selected);
  const count = spotsOf(document).length;
  const spot = spotById(document, selected[0] ?? '');
  const chosen = document.trackers.find((t) => selected.includes(t.id))?.kind;
  const panels = (first: boolean) =>
    SURFACE_PANELS.map(({ kind, Panel }) => (kind === chosen) === first && <Panel key={kind} />);
  return (
    <>
      {panels(true)}
      <Section title="Spots">
        {count === 0 ? (
          <Hint>
            Press on the picture to place a spot: a corner with contrast, on something that should stand
            still. One spot holds the position; a second, far from the first, holds rotation and scale too.
            Key: N.
          </Hint>
        ) : (
          <SpotTable />
        )}
        {count === 1 && <Hint>One more, far from this one, takes out rotation and scale as well.</Hint>}
      </Section>
      {spot && <SpotDetails key={spot.id} spot={spot} />}
      {panels(false)}
      <Suggestions quality={quality} />
      {spot && <TrackersEye spot={spot} />}
      {spot && <Following spot={spot} />}
      <Areas />
      <Section title="Bring in">
        <button type="button" className="btn btn-sm w-full" onClick={() => setBench({ importing: true })}>
          Import spots or motion …
        </button>
      </Section>
    </>
  );
}
