import { ChevronFirst, ChevronLast, ChevronLeft, ChevronRight, Square } from 'lucide-react';
import { countSamples, EMPTY_TRACK } from '@lurn/core';
import { spotColour } from '../../../lib/colours';
import { seconds } from '../../../lib/format';
import { setBench, useBench } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import type { Tracker, TrackWay } from '../../../state/tracking';
import { Hint, Section } from './Section';

export function TrackPanel({ tracker }: { readonly tracker: Tracker }) {
  const { tracking, info, frame, selected, onlySelected } = useBench();
  const { document, tracks } = useShot((s) => s.state);
  const { range } = document;
  const button = (way: TrackWay, label: string, key: string, icon: React.ReactNode, main = false) => (
    <button
      type="button"
      className={`btn btn-sm justify-start whitespace-nowrap ${main ? 'btn-primary' : ''}`}
      title={`${label} (${key})`}
      disabled={tracking !== null || document.spots.length === 0}
      onClick={() => void tracker.run(way)}
    >
      {icon}
      {label}
    </button>
  );
  const who = document.spots
    .filter((s) => selected.includes(s.id))
    .map((s) => s.name)
    .join(', ');
  return (
    <>
      <Section title="Track">
        <div className="grid grid-cols-2 gap-1.5">
          {button('start', 'To the start', 'Shift T', <ChevronFirst size={15} />)}
          {button('end', 'To the end', 'T', <ChevronLast size={15} />, true)}
          {button('previous', 'One back', 'Shift G', <ChevronLeft size={15} />)}
          {button('next', 'One on', 'G', <ChevronRight size={15} />)}
        </div>
        <label className="flex cursor-pointer items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={onlySelected}
            onChange={(e) => setBench({ onlySelected: e.target.checked })}
          />
          Only the selected spot
        </label>
        <Hint>
          From frame <span className="num">{frame}</span>
          {onlySelected ? `: ${who || 'none is selected'}` : ': every spot that has a sample here'}. Range:{' '}
          <span className="num">{range.from}</span> to <span className="num">{range.to}</span>.
        </Hint>
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
                title="Stop tracking (X)"
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
        {document.spots.length === 0 && <Hint>Place a spot first: station 1.</Hint>}
        <table className="w-full text-xs">
          <tbody>
            {document.spots.map((s) => {
              const n = countSamples(tracks[s.id] ?? EMPTY_TRACK);
              return (
                <tr key={s.id}>
                  <td className="py-0.5 pr-2">
                    <span
                      className="mr-1.5 inline-block size-2"
                      style={{ background: spotColour(s.colour) }}
                    />
                    {s.name}
                  </td>
                  <td className="num text-right">
                    {n} of {info.frames}
                  </td>
                  <td className="num w-16 text-right">{meanConfidence(tracks[s.id] ?? EMPTY_TRACK)}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {document.spots.length > 0 && <Hint>Frames with a sample, and their mean confidence.</Hint>}
      </Section>
    </>
  );
}

function timeLeft({ done, total, startedAt }: { done: number; total: number; startedAt: number }): string {
  if (done < 3) return 'starting';
  return `${seconds(((Date.now() - startedAt) / 1000 / done) * (total - done))} left`;
}

function meanConfidence(track: typeof EMPTY_TRACK): string {
  const n = countSamples(track);
  if (n === 0) return '–';
  return (track.confidence.reduce((a, b) => a + b, 0) / n).toFixed(2);
}
