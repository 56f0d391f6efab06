import { Download, Play, Square, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { mostZoom } from '@lurn/core';
import { changeDocument, soundIsCopied, type RenderSummary } from '@lurn/model';
import { IconButton } from '../../../components/Tip';
import { api, messageOf, renderUrl } from '../../../lib/api';
import { bytes, percent, plural, seconds } from '../../../lib/format';
import { useBenchParts } from '../../../state/bench';
import type { Saver } from '../../../state/saving';
import { edit, shotDocument, useShot } from '../../../state/shot';
import { Hint, Reading, Section } from './Section';

const QUALITIES = [
  [14, 'Master', 'hardly distinguishable from the source; large'],
  [18, 'High', 'for handing over'],
  [23, 'Review', 'small, to look at'],
] as const;

export function RenderPanel({ saver }: { readonly saver: Saver }) {
  const { clip, steady, info, times } = useBenchParts('clip', 'steady', 'info', 'times');
  const { range, edges, framing } = useShot((s) => s.state.document);
  const { width, height } = framing.delivery ?? info;
  const transparent = edges.mode === 'transparent';
  const [ordering, setOrdering] = useState(false);
  const [playing, setPlaying] = useState<string | null>(null);
  const frames = range.to - range.from + 1;
  const order = async () => {
    setOrdering(true);
    try {
      const revision = await saver.settled();
      await api.render(clip.id, revision, shotDocument().crf);
    } catch (error) {
      toast.error(messageOf(error), { id: 'render' });
    } finally {
      setOrdering(false);
    }
  };
  return (
    <>
      <Section title="Render">
        {!transparent && <Quality />}
        <Reading
          label="Frames"
          value={`${range.from} to ${range.to} (${seconds(frames === info.frames ? info.duration : (times[range.to] ?? 0) - (times[range.from] ?? 0) + 1 / info.fps)})`}
        />
        <Reading
          label="Zoom at most"
          value={percent(steady ? mostZoom(steady, range.from, range.to) : 1, 2)}
        />
        <Reading label="File" value={transparent ? 'MOV, ProRes 4444 + alpha' : 'MP4, H.264'} />
        <Reading label="Size" value={`${width & ~1} × ${height & ~1} px`} />
        <Reading
          label="Sound"
          value={
            !info.audio
              ? 'none'
              : soundIsCopied(info)
                ? `${info.audio.codec}, as it is`
                : `${info.audio.codec}, as AAC`
          }
        />
        {steady && steady.edgeFrames.length > 0 && edges.mode === 'colour' && (
          <p className="text-xs text-error">
            ▲ An edge will show on {plural(steady.edgeFrames.length, 'frame')}. Station 5 has the fit zoom.
          </p>
        )}
        <button
          type="button"
          className="btn btn-primary btn-sm w-full"
          disabled={!steady || ordering}
          onClick={() => void order()}
        >
          Render the steadied picture
        </button>
        {!steady && <Hint>Track a spot first: there is no motion to take out yet.</Hint>}
      </Section>
      <Section title="Files">
        {clip.renders.length === 0 && <Hint>Finished files appear here, to play and to download.</Hint>}
        <ul className="space-y-3" aria-live="polite">
          {clip.renders.map((r) => (
            <RenderRow key={r.id} render={r} onPlay={() => setPlaying(r.id)} />
          ))}
        </ul>
      </Section>
      {playing && (
        <dialog
          open
          className="modal"
          aria-label="Rendered file"
          onKeyDown={(e) => e.key === 'Escape' && setPlaying(null)}
        >
          <div className="modal-box max-w-4xl bg-base-200 p-3">
            <video className="ground w-full" src={renderUrl(playing)} controls autoPlay />
            <div className="mt-2 flex justify-end gap-2">
              <a className="btn btn-sm" href={renderUrl(playing, true)}>
                Download
              </a>
              <button
                type="button"
                className="btn btn-sm btn-primary"
                autoFocus
                onClick={() => setPlaying(null)}
              >
                Close
              </button>
            </div>
          </div>
        </dialog>
      )}
    </>
  );
}

function Quality() {
  const crf = useShot((s) => s.state.document.crf);
  return (
    <div className="grid gap-1" role="radiogroup" aria-label="Quality">
      {QUALITIES.map(([value, name, use]) => (
        <label key={value} className="flex cursor-pointer items-baseline gap-2">
          <input
            type="radio"
            name="quality"
            className="radio radio-xs translate-y-0.5"
            checked={crf === value}
            onChange={() => edit((s) => changeDocument(s, { crf: value }))}
          />
          <span className="w-14 shrink-0">{name}</span>
          <span className="quiet text-xs">{use}</span>
        </label>
      ))}
    </div>
  );
}

const WORDS: Record<RenderSummary['status'], string> = {
  waiting: 'waits its turn',
  running: 'rendering',
  done: 'done',
  failed: 'failed',
  stopped: 'stopped',
};

function RenderRow({ render: r, onPlay }: { readonly render: RenderSummary; readonly onPlay: () => void }) {
  const live = r.status === 'running' || r.status === 'waiting';
  const act = (work: Promise<unknown>) =>
    work.catch((error: unknown) => toast.error(messageOf(error), { id: 'render' }));
  return (
    <li>
      <div className="flex items-center gap-1">
        <span className="grow">
          <span className={r.status === 'failed' ? 'text-error' : ''}>
            {r.status === 'failed' ? '▲ ' : ''}
            {WORDS[r.status]}
          </span>{' '}
          <span className="num quiet text-xs">
            {r.from}–{r.to}, {percent(r.zoom)}
            {r.bytes !== null && `, ${bytes(r.bytes)}`}
          </span>
        </span>
        {r.status === 'done' && (
          <>
            <IconButton label="Play" onClick={onPlay}>
              <Play size={14} />
            </IconButton>
            <a
              className="btn btn-ghost btn-xs h-7 min-w-7 px-1.5"
              href={renderUrl(r.id, true)}
              title="Download"
              aria-label="Download"
            >
              <Download size={14} />
            </a>
          </>
        )}
        {live ? (
          <IconButton label="Stop the render" onClick={() => void act(api.stopRender(r.id))}>
            <Square size={13} />
          </IconButton>
        ) : (
          <IconButton label="Remove the render" onClick={() => void act(api.removeRender(r.id))}>
            <Trash2 size={13} />
          </IconButton>
        )}
      </div>
      {live && (
        <>
          <progress
            className="progress progress-primary w-full"
            value={r.done}
            max={r.total}
            aria-label="Rendering"
          />
          <span className="num quiet text-xs">
            {r.done} of {r.total}
            {r.secondsLeft !== null && `, ${seconds(r.secondsLeft)} left`}
          </span>
        </>
      )}
      {r.error && <p className="text-xs text-error">{r.error.message}</p>}
      {r.note && <p className="quiet text-xs">{r.note}</p>}
    </li>
  );
}
