import { useMemo } from 'react';
import { groupDoubts } from '@lurn/core/doubt';
import { Check } from 'lucide-react';
import { setBench, useBench, useBenchParts } from '../../state/bench';
import { useKeyTip } from '../../state/keymap';
import { useShot } from '../../state/shot';
import { standingOf, STATIONS } from './stations';

/** The stations of the work in order, each with how far it has come; the next thing to do is marked. */
export function Course() {
  const station = useBench((s) => s.station);
  const progress = useProgress();
  const tip = useKeyTip();
  const next = STATIONS.find((_, i) => !progress[i].done)?.id ?? 'handOver';
  return (
    <nav aria-label="Course" className="flex h-full flex-col gap-px overflow-y-auto py-2">
      <ol>
        {STATIONS.map(({ id, name }, i) => (
          <li key={id} className="relative">
            {i < STATIONS.length - 1 && (
              <span className="rule absolute top-6 bottom-0 left-[17px] -mb-3 border-l" aria-hidden="true" />
            )}
            <button
              type="button"
              title={tip(name, id)}
              aria-current={station === id ? 'step' : undefined}
              className={`relative flex w-full gap-2 px-2 py-1.5 text-left hover:bg-base-300/60 ${station === id ? 'bg-base-300' : ''}`}
              onClick={() => setBench({ station: id })}
            >
              <span
                className={`num mt-0.5 grid size-[19px] shrink-0 place-items-center rounded-full border text-[11px] ${
                  progress[i].done
                    ? 'border-primary text-primary'
                    : next === id
                      ? 'border-primary bg-primary text-primary-content'
                      : 'border-secondary'
                } ${next === id ? '' : 'bg-base-200'}`}
              >
                {progress[i].done ? <Check size={11} strokeWidth={3} aria-label="done" /> : i + 1}
              </span>
              <span className="min-w-0">
                <span className="block font-semibold">{name}</span>
                <span className={`block text-xs leading-tight ${next === id ? '' : 'quiet'}`}>
                  {progress[i].text}
                </span>
              </span>
            </button>
          </li>
        ))}
      </ol>
    </nav>
  );
}

/** How far every station has come. */
function useProgress() {
  const state = useShot((s) => s.state);
  const { info, steady, clip, tracking, doubts } = useBenchParts(
    'info',
    'steady',
    'clip',
    'tracking',
    'doubts',
  );
  return useMemo(() => {
    const causes = groupDoubts(doubts).length;
    const standing = standingOf(state, { info, steady, clip, tracking, doubts: causes });
    return STATIONS.map((s) => s.progress(standing));
  }, [state, info, steady, clip, tracking, doubts]);
}
