import { countSamples, mostZoom, type EdgeMode, type Steady } from '@lurn/core';
import type { ShotDocument } from '@lurn/model';
import { Check } from 'lucide-react';
import { GOALS } from '../../lib/words';
import { percent, pixels, plural } from '../../lib/format';
import { setBench, STATIONS, useBench, type Station, useBenchParts } from '../../state/bench';
import { useShot } from '../../state/shot';

const NAMES: Record<Station, string> = {
  spots: 'Spots',
  track: 'Track',
  repair: 'Repair',
  steady: 'Steady',
  frame: 'Frame',
  render: 'Render',
};

interface Progress {
  readonly text: string;
  readonly done: boolean;
}

/** The stations of the work in order, each with how far it has come; the next thing to do is marked. */
export function Course() {
  const station = useBench((s) => s.station);
  const progress = useProgress();
  const next = STATIONS.find((s) => !progress[s].done) ?? 'render';
  return (
    <nav aria-label="Course" className="flex h-full flex-col gap-px overflow-y-auto py-2">
      <ol>
        {STATIONS.map((s, i) => (
          <li key={s} className="relative">
            {i < STATIONS.length - 1 && (
              <span className="rule absolute top-6 bottom-0 left-[17px] -mb-3 border-l" aria-hidden="true" />
            )}
            <button
              type="button"
              title={`${NAMES[s]} (${i + 1})`}
              aria-current={station === s ? 'step' : undefined}
              className={`relative flex w-full gap-2 px-2 py-1.5 text-left hover:bg-base-300/60 ${station === s ? 'bg-base-300' : ''}`}
              onClick={() => setBench({ station: s })}
            >
              <span
                className={`num mt-0.5 grid size-[19px] shrink-0 place-items-center rounded-full border text-[11px] ${
                  progress[s].done
                    ? 'border-primary text-primary'
                    : next === s
                      ? 'border-primary bg-primary text-primary-content'
                      : 'border-secondary'
                } ${next === s ? '' : 'bg-base-200'}`}
              >
                {progress[s].done ? <Check size={11} strokeWidth={3} aria-label="done" /> : i + 1}
              </span>
              <span className="min-w-0">
                <span className="block font-semibold">{NAMES[s]}</span>
                <span className={`block text-xs leading-tight ${next === s ? '' : 'quiet'}`}>
                  {progress[s].text}
                </span>
              </span>
            </button>
          </li>
        ))}
      </ol>
    </nav>
  );
}

const EDGES: Record<EdgeMode, string> = {
  colour: 'shows',
  stretched: 'stretched',
  mirrored: 'mirrored',
  borrowed: 'borrowed',
  transparent: 'left open',
};

function zoomText(steady: Steady, { framing, edges, range }: ShotDocument): string {
  const least = steady.zooms.subarray(range.from, range.to + 1).reduce((a, b) => Math.min(a, b));
  const most = mostZoom(steady, range.from, range.to);
  const zoom = most - least < 5e-4 ? percent(most) : `${percent(least).replace(' %', '')}–${percent(most)}`;
  const count = steady.edgeFrames.length;
  if (framing.mode !== 'none' && !Number.isFinite(steady.fit.zoom) && edges.mode === 'colour')
    return `No zoom fits, edge on ${plural(count, 'frame')}`;
  if (count > 0) return `${zoom}, edge ${EDGES[edges.mode]} on ${plural(count, 'frame')}`;
  return framing.mode === 'fit' && framing.zoom === 1 ? `Fit zoom ${zoom}` : `${zoom}, no edge`;
}

function useProgress(): Record<Station, Progress> {
  const { document, tracks } = useShot((s) => s.state);
  const { info, steady, clip, tracking, doubts } = useBenchParts(
    'info',
    'steady',
    'clip',
    'tracking',
    'doubts',
  );
  const { range, goal } = document;
  const goalName = goal.keys.length > 0 ? `${plural(goal.keys.length, 'keyframe')}` : GOALS[goal.goal];
  const wanted = range.to - range.from + 1;
  const longest = Math.max(0, ...document.spots.map((s) => (tracks[s.id] ? countSamples(tracks[s.id]) : 0)));
  const several = document.spots.filter((s) => s.used).length > 1;
  const covered = steady
    ? steady.motion.support
        .slice(range.from, range.to + 1)
        .filter((s) => (several ? s === 'full' || s === 'guessed' : s !== 'none')).length
    : 0;
  const gaps = wanted - covered;
  const tracked = longest > 1;
  const edges = steady?.edgeFrames.length ?? 0;
  const finished = clip.renders.filter((r) => r.status === 'done').length;
  const running = clip.renders.find((r) => r.status === 'running' || r.status === 'waiting');
  return {
    spots: {
      done: document.spots.length > 0,
      text:
        document.spots.length > 0 ? plural(document.spots.length, 'spot') : 'Mark two features, far apart',
    },
    track: {
      done: tracked && gaps === 0,
      text: tracking
        ? `Frame ${tracking.frame}, ${tracking.done} of ${tracking.total}`
        : tracked
          ? `${covered} of ${wanted} frames`
          : `0 of ${info.frames} frames`,
    },
    repair: {
      done: tracked && gaps === 0 && doubts.length === 0,
      text: !tracked
        ? 'Nothing to repair yet'
        : doubts.length > 0
          ? `${plural(doubts.length, 'doubt')}${gaps > 0 ? `, ${plural(gaps, 'frame')} short` : ''}`
          : gaps === 0
            ? 'No doubts, no gaps'
            : `${plural(gaps, 'frame')} ${several ? 'with fewer than two spots' : 'without a sample'}`,
    },
    steady: {
      done: tracked && steady !== null,
      text:
        tracked && steady
          ? `${goalName}, ${pixels(steady.measure.after).replace(' px', '')} left of ${pixels(steady.measure.before).replace(' ', '\u00a0')}`
          : goalName,
    },
    frame: {
      done: tracked && steady !== null && (edges === 0 || document.edges.mode !== 'colour'),
      text: tracked && steady ? zoomText(steady, document) : 'Fit zoom',
    },
    render: {
      done: finished > 0 && !running,
      text: running
        ? `Rendering, ${Math.round((running.done / running.total) * 100)} %`
        : finished > 0
          ? plural(finished, 'file')
          : 'No file yet',
    },
  };
}
