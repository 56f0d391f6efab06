import { useQuery, useQueryClient } from '@tanstack/react-query';
import { X } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { QueuedRender } from '@lurn/model';
import { IconButton } from '../../components/Tip';
import { api, messageOf } from '../../lib/api';
import { seconds } from '../../lib/format';
import { allSecondsLeft, movedBefore } from '../../lib/queue';
import { useNotice } from '../../state/notice';
import { Machines } from './Machines';
import { QueueRow } from './QueueRow';

/** What is rendered and what waits, of all shots, in order; and by which machines. */
export function Queue({ onClose }: { readonly onClose: () => void }) {
  const client = useQueryClient();
  const { data: queue } = useQuery({ queryKey: ['queue'], queryFn: api.queue, refetchInterval: 5_000 });
  const [dragged, setDragged] = useState<string | null>(null);
  const notice = useNotice();
  const renders = queue?.renders ?? [];
  const waiting = renders.filter((r) => r.status === 'waiting');
  const left = allSecondsLeft(renders);
  const arrange = (ids: string[]) => {
    api.arrangeRenders(ids).then(
      () => client.invalidateQueries({ queryKey: ['queue'] }),
      (error: unknown) => toast.error(messageOf(error), { id: 'queue' }),
    );
  };
  const drop = (before: string | null) => {
    if (dragged && dragged !== before) arrange(movedBefore(waiting, dragged, before));
    setDragged(null);
  };
  const sooner = (r: QueuedRender) => {
    const at = waiting.indexOf(r);
    if (at > 0) arrange(movedBefore(waiting, r.id, waiting[at - 1].id));
  };
  return (
    <aside
      className="rule flex w-[340px] shrink-0 flex-col border-l bg-base-200"
      aria-label="Queue"
      onKeyDown={(e) => e.key === 'Escape' && onClose()}
    >
      <header className="rule flex h-10 items-center gap-2 border-b px-3">
        <h2 className="font-semibold">Queue</h2>
        <span className="quiet num grow text-xs" role="status">
          {left !== null && `${seconds(left)} left in all`}
        </span>
        <IconButton label="Close the queue" onClick={onClose}>
          <X size={14} />
        </IconButton>
      </header>
      <div className="min-h-0 grow overflow-y-auto">
        {renders.length === 0 && (
          <p className="quiet p-3 text-xs">
            Nothing is rendered. Select shots and press "Steady these", or render at a shot's Hand over.
          </p>
        )}
        <ul aria-label="Renders in order">
          {renders.map((r) => (
            <QueueRow
              key={r.id}
              render={r}
              first={r === waiting[0]}
              dragged={r.id === dragged}
              onDrag={() => setDragged(r.id)}
              onDrop={() => drop(r.status === 'waiting' ? r.id : null)}
              onSooner={() => sooner(r)}
            />
          ))}
        </ul>
      </div>
      <footer className="rule space-y-2 border-t p-3">
        {queue && <Machines queue={queue} />}
        <label
          className="flex cursor-pointer items-center gap-2 text-xs"
          title="A notice of the browser and two short tones"
        >
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={notice.on}
            onChange={(e) => notice.set(e.target.checked)}
          />
          Tell me when all of it is done
        </label>
      </footer>
    </aside>
  );
}
