import { ArrowUp, GripVertical, RotateCw, Square, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { QueuedRender } from '@lurn/model';
import { IconButton } from '../../components/Tip';
import { api, lastPictureUrl, messageOf, renderUrl } from '../../lib/api';
import { bytes, seconds } from '../../lib/format';
import { RENDER_WORDS } from '../../lib/words';

interface RowProps {
  readonly render: QueuedRender;
  /** It is the next one. */
  readonly first: boolean;
  readonly dragged: boolean;
  readonly onDrag: () => void;
  readonly onDrop: () => void;
  readonly onSooner: () => void;
}

/** A render of some shot: how far it is, what it looks like, and what may be done with it. */
export function QueueRow({ render: r, first, dragged, onDrag, onDrop, onSooner }: RowProps) {
  const [over, setOver] = useState(false);
  const waits = r.status === 'waiting';
  const runs = r.status === 'running';
  const act = (work: Promise<unknown>) =>
    void work.catch((error: unknown) => toast.error(messageOf(error), { id: 'queue' }));
  return (
    <li
      aria-label={`${r.clip}, ${r.delivery}`}
      draggable={waits}
      onDragStart={onDrag}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={() => {
        setOver(false);
        onDrop();
      }}
      className={`rule flex gap-2 border-b px-2 py-1.5 ${dragged ? 'opacity-40' : ''} ${over ? 'border-t-2 border-t-primary' : ''}`}
    >
      <span
        className="quiet w-4 shrink-0 pt-1"
        title={waits ? 'Drag it to where it belongs in the order' : undefined}
      >
        {waits && <GripVertical size={14} className="cursor-grab" />}
      </span>
      <div className="min-w-0 grow">
        <div className="flex items-center gap-1">
          <span className="grow truncate">{r.clip}</span>
          {waits && !first && (
            <IconButton label={`${r.clip}: sooner`} onClick={onSooner}>
              <ArrowUp size={13} />
            </IconButton>
          )}
          {(waits || runs) && (
            <IconButton label={`${r.clip}: stop`} onClick={() => act(api.stopRender(r.id))}>
              <Square size={12} />
            </IconButton>
          )}
          {(r.status === 'stopped' || r.status === 'failed') && (
            <IconButton label={`${r.clip}: go on where it was`} onClick={() => act(api.goOn(r.id))}>
              <RotateCw size={13} />
            </IconButton>
          )}
          {!waits && !runs && (
            <IconButton label={`${r.clip}: remove the render`} onClick={() => act(api.removeRender(r.id))}>
              <Trash2 size={13} />
            </IconButton>
          )}
        </div>
        <p className="quiet num truncate text-xs">
          {!runs && (
            <span className={r.status === 'failed' ? 'text-error' : ''}>
              {r.status === 'failed' && '▲ '}
              {RENDER_WORDS[r.status]}
            </span>
          )}
          {r.done > 0 && r.status !== 'done' && `${runs ? '' : ', '}${r.done} of ${r.total}`}
          {runs && r.done === 0 && 'begins'}
          {r.secondsLeft !== null && `, ${seconds(r.secondsLeft)} left`}
          {r.bytes !== null && `, ${bytes(r.bytes)}`}
        </p>
        <p className="quiet truncate text-xs">
          {r.delivery}, {r.format}
        </p>
        {runs && (
          <progress
            className="progress progress-primary h-1 w-full"
            value={r.done}
            max={r.total}
            aria-label={`${r.clip}, rendering`}
          />
        )}
        {r.error && <p className="text-xs text-error">{r.error.message}</p>}
        {r.status === 'done' && (
          <a className="link text-xs" href={renderUrl(r.id, true)}>
            Download
          </a>
        )}
      </div>
      {runs && r.done > 60 && <LastPicture id={r.id} done={r.done} />}
    </li>
  );
}

/** Frames after which the last picture is looked at again. */
const EVERY = 60;

/** The last picture that was made; nothing while there is none. */
function LastPicture({ id, done }: { readonly id: string; readonly done: number }) {
  const [there, setThere] = useState(false);
  return (
    <img
      src={lastPictureUrl(id, Math.floor(done / EVERY))}
      alt="The last picture that was made"
      onLoad={() => setThere(true)}
      onError={() => setThere(false)}
      className={`h-12 shrink-0 self-center ${there ? '' : 'hidden'}`}
    />
  );
}
