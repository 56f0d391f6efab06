import { Download, Play, RotateCw, Square, Trash2 } from 'lucide-react';
import { toast } from 'sonner';
import type { RenderSummary } from '@lurn/model';
import { IconButton } from '../../../components/Tip';
import { api, messageOf, renderUrl } from '../../../lib/api';
import { bytes, percent, seconds } from '../../../lib/format';
import { RENDER_WORDS } from '../../../lib/words';

/** A file that is made, or was. */
export function RenderRow({
  render: r,
  onPlay,
}: {
  readonly render: RenderSummary;
  readonly onPlay: () => void;
}) {
  const live = r.status === 'running' || r.status === 'waiting';
  const act = (work: Promise<unknown>) =>
    work.catch((error: unknown) => toast.error(messageOf(error), { id: 'render' }));
  return (
    <li>
      <div className="flex items-center gap-1">
        <span className="grow">
          <span className={r.status === 'failed' ? 'text-error' : ''}>
            {r.status === 'failed' ? '▲ ' : ''}
            {RENDER_WORDS[r.status]}
          </span>{' '}
          <span className="num quiet text-xs">
            {r.from}–{r.to}
            {r.zoom !== null && `, ${percent(r.zoom)}`}
            {r.bytes !== null && `, ${bytes(r.bytes)}`}
          </span>
        </span>
        {r.status === 'done' && (
          <>
            {r.plays && (
              <IconButton label="Play" onClick={onPlay}>
                <Play size={14} />
              </IconButton>
            )}
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
        {(r.status === 'stopped' || r.status === 'failed') && (
          <IconButton label="Go on where it was" onClick={() => void act(api.goOn(r.id))}>
            <RotateCw size={13} />
          </IconButton>
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
      {!live && (
        <p className="quiet truncate text-xs">
          {r.delivery}, {r.format}
        </p>
      )}
      {r.error && <p className="text-xs text-error">{r.error.message}</p>}
      {r.note && <p className="quiet text-xs">{r.note}</p>}
    </li>
  );
}
