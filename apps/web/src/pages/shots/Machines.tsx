import type { QueueSummary, WorkerSummary } from '@lurn/model';
import { plural } from '../../lib/format';

/** The machines that render, what each does, and what went wrong. */
export function Machines({ queue: { shared, away, workers, renders } }: { readonly queue: QueueSummary }) {
  if (!shared) return <p className="quiet text-xs">Rendered on this machine, one after the other.</p>;
  const waits = renders.some((r) => r.status === 'running' || r.status === 'waiting');
  const there = workers.filter((w) => !w.gone);
  return (
    <section aria-label="Machines" className="text-xs">
      <h3 className="font-semibold">Machines</h3>
      {away && (
        <p className="text-warning">
          ▲ The queue does not answer (Redis). It is tried again; nothing is lost.
        </p>
      )}
      {there.length === 0 && (
        <p className={waits ? 'text-warning' : 'quiet'}>
          {waits && '▲ '}No machine is at work. Start one with <code>npm run worker</code>; the server prints
          how.
        </p>
      )}
      <ul className="max-h-40 overflow-y-auto">
        {workers.map((w) => (
          <li key={w.id} className="flex gap-2 py-0.5" title={`${w.id}, ${plural(w.threads, 'processor')}`}>
            <span className={`w-24 shrink-0 truncate ${w.gone ? 'text-error' : ''}`}>
              {w.gone ? '✕ ' : w.doing ? '● ' : '○ '}
              {w.name}
            </span>
            <span className="quiet num grow truncate">{doingOf(w, renders)}</span>
            <span className="quiet num shrink-0">{plural(w.done, 'part')}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function doingOf({ gone, silent, doing, error }: WorkerSummary, renders: QueueSummary['renders']): string {
  if (gone) return `silent for ${silent} s: its parts go to others`;
  if (doing) {
    const clip = renders.find((r) => r.id === doing.render)?.clip ?? 'a render';
    return `${clip}, ${plural(doing.frames, 'frame')}`;
  }
  return error ?? 'waits';
}
