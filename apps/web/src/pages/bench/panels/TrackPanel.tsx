import { spotsOf, surfacesOf } from '@lurn/model';
import {
  ChevronFirst,
  ChevronLast,
  ChevronLeft,
  ChevronRight,
  ChevronsLeftRight,
  Diamond,
  Square,
} from 'lucide-react';
import { Check } from '../../../components/Check';
import { seconds } from '../../../lib/format';
import { useKeyTip } from '../../../state/keymap';
import { setBench, useBenchParts } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import type { TrackWay } from '../../../state/track-targets';
import type { Helpers } from '../stations/station';
import { Hint, Section } from './Section';
import { SpotTable } from './SpotTable';
import { Surfaces } from './Surfaces';

export function TrackPanel({ tracker }: Helpers) {
  const tip = useKeyTip();
  const { tracking, slower, frame, selected, onlySelected, follow } = useBenchParts(
    'tracking',
    'slower',
    'frame',
    'selected',
    'onlySelected',
    'follow',
  );
  const { document } = useShot((s) => s.state);
  const { range } = document;
  const button = (way: TrackWay, label: string, icon: React.ReactNode, main = false) => (
    <button
      type="button"
      className={`btn btn-sm justify-start whitespace-nowrap ${main ? 'btn-primary' : ''}`}
      title={tip(label, `track-${way}`)}
      disabled={tracking !== null || document.trackers.length === 0}
      onClick={() => void tracker.run(way)}
    >
      {icon}
      {label}
    </button>
  );
  const who = document.trackers
    .filter((s) => selected.includes(s.id))
    .map((s) => s.name)
    .join(', ');
  return (
    <>
      <Section title="Track">
        <div className="grid grid-cols-2 gap-1.5">
          {button('start', 'To the start', <ChevronFirst size={15} />)}
          {button('end', 'To the end', <ChevronLast size={15} />, true)}
          {button('previous', 'One back', <ChevronLeft size={15} />)}
          {button('next', 'One on', <ChevronRight size={15} />)}
          {button('both', 'Both ways', <ChevronsLeftRight size={15} />)}
          {button('pin', 'To the next pin', <Diamond size={13} />)}
        </div>
        <Check checked={onlySelected} onChange={(on) => setBench({ onlySelected: on })}>
          Only what is selected
        </Check>
        <Check
          title={tip('Keep the selected spot in the middle', 'follow')}
          checked={follow}
          onChange={(on) => setBench({ follow: on })}
        >
          The view follows the spot
        </Check>
        <Hint>
          From frame <span className="num">{frame}</span>
          {onlySelected ? `: ${who || 'none is selected'}` : ': everything that has a sample here'}. Range:{' '}
          <span className="num">{range.from}</span> to <span className="num">{range.to}</span>.
        </Hint>
        {slower && <Hint>Tracking is slower here than it could be. {slower}</Hint>}
      </Section>
      <div aria-live="polite">
        {tracking && (
          <Section title={`Tracking, frame ${tracking.frame}`}>
            <progress
              className="progress progress-primary w-full"
              value={tracking.done}
              max={tracking.total}
              aria-label="Tracking"
            />
            <div className="flex items-center justify-between">
              <span className="num quiet text-xs">
                {tracking.done} of {tracking.total}, {timeLeft(tracking)}
              </span>
              <button
                type="button"
                className="btn btn-xs"
                title={tip('Stop tracking', 'stop')}
                onClick={() => tracker.stop()}
              >
                <Square size={11} /> Stop
              </button>
            </div>
            <Hint>What is done so far is kept.</Hint>
          </Section>
        )}
      </div>
      <Section title="Samples">
        {document.trackers.length === 0 && <Hint>Place a spot or draw a surface first, at Mark.</Hint>}
        {spotsOf(document).length > 0 && <SpotTable />}
      </Section>
      {surfacesOf(document).length > 0 && <Surfaces />}
    </>
  );
}

function timeLeft({ done, total, startedAt }: { done: number; total: number; startedAt: number }): string {
  if (done < 3) return 'starting';
  return `${seconds(((Date.now() - startedAt) / 1000 / done) * (total - done))} left`;
}
