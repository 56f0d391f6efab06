import { useQueryClient } from '@tanstack/react-query';
import { FileVideo, Trash2 } from 'lucide-react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { ClipSummary } from '@lurn/model';
import { IconButton } from '../../components/Tip';
import { api, messageOf, thumbnailUrl } from '../../lib/api';
import { bytes, pixels, plural, rate, seconds, timeCode } from '../../lib/format';
import { TRACKERS } from '../../lib/words';
import { deleteClips } from './delete-clips';

interface CardProps {
  readonly clip: ClipSummary;
  readonly selected: boolean;
  readonly large: boolean;
  /** @param range  everything from the one that was selected last */
  readonly onSelect: (range: boolean) => void;
}

/** A clip: what it is, how shaky, and what has been done. */
export function ShotCard({ clip, selected, large, onSelect }: CardProps) {
  const client = useQueryClient();
  const refresh = () => void client.invalidateQueries({ queryKey: ['clips'] });
  const rename = (name: string) => {
    if (!name || name === clip.name) return;
    api.renameClip(clip.id, name).then(refresh, (error: unknown) => toast.error(messageOf(error)));
  };
  const { info } = clip;
  const open = clip.status !== 'failed' && info;
  const ready = clip.status === 'ready' && info;
  const picture = (
    <span className="ground grid aspect-video w-full place-items-center overflow-hidden">
      {ready ? (
        <img src={thumbnailUrl(clip.id)} alt="" className="h-full w-full object-contain" />
      ) : (
        <FileVideo size={32} className="text-[#e8e2d4]/60" />
      )}
    </span>
  );
  return (
    <li
      aria-label={clip.name}
      className={`group relative ${selected ? 'outline-2 outline-offset-4 outline-primary' : ''}`}
    >
      <input
        type="checkbox"
        className={`checkbox checkbox-sm absolute top-1.5 left-1.5 z-10 bg-base-100/80 group-hover:opacity-100 focus-visible:opacity-100 ${selected ? '' : 'opacity-0'}`}
        aria-label={`Select ${clip.name}`}
        checked={selected}
        onChange={() => undefined}
        onClick={(e) => onSelect(e.shiftKey)}
      />
      {open ? (
        <Link
          to={`/shots/${clip.id}`}
          title={`Open ${clip.name} on the Bench${ready ? '' : '; the rest of it fills in while you work'}`}
          className="block outline-offset-2 hover:opacity-90"
        >
          {picture}
        </Link>
      ) : (
        picture
      )}
      <div className="mt-1 flex items-center">
        <input
          key={clip.name}
          defaultValue={clip.name}
          maxLength={120}
          aria-label="Name"
          className="input input-ghost input-sm -ml-1 min-w-0 grow px-1 text-sm font-semibold"
          onKeyDown={(e) => {
            if (e.key === 'Enter') e.currentTarget.blur();
            if (e.key === 'Escape') {
              e.currentTarget.value = clip.name;
              e.currentTarget.blur();
            }
          }}
          onBlur={(e) => {
            const name = e.target.value.trim();
            if (!name) e.target.value = clip.name;
            rename(name);
          }}
        />
        <IconButton label={`Delete ${clip.name}`} onClick={() => void deleteClips([clip], refresh)}>
          <Trash2 size={14} />
        </IconButton>
      </div>
      {clip.status === 'failed' && (
        <p className="text-error">▲ {clip.error?.message ?? 'It could not be read.'}</p>
      )}
      {(clip.status === 'reading' || clip.status === 'copying') && <Reading clip={clip} />}
      {open && (
        <>
          <p className="num quiet text-xs" title={bytes(clip.bytes)}>
            {info.width} × {info.height} &nbsp; {rate(info.fps)} &nbsp; {timeCode(info.duration, info.fps)}
          </p>
          <p className={`mt-1 flex justify-between gap-2 ${large ? '' : 'text-xs'} ${ready ? '' : 'hidden'}`}>
            <span title="Root mean square distance of the picture from its own smoothed course">
              Shake <span className="num">{pixels(clip.shakiness ?? NaN)}</span>
            </span>
            <span className="quiet truncate">{workOf(clip)}</span>
          </p>
          {info.warning && <p className="text-xs text-warning">▲ {info.warning}</p>}
        </>
      )}
    </li>
  );
}

/** How far reading has come, and how long it still takes. */
function Reading({ clip: { status, progress, expected, secondsLeft } }: { readonly clip: ClipSummary }) {
  return (
    <div aria-live="polite">
      <progress
        className="progress progress-primary w-full"
        aria-label="Reading"
        {...(expected !== null && progress > 0 && { value: Math.min(progress, expected), max: expected })}
      />
      <p className="quiet text-xs">
        {status === 'reading' ? 'Reading' : 'Making a working copy'}:{' '}
        <span className="num">
          {progress}
          {expected !== null && ` of ${expected}`}
        </span>{' '}
        frames
        {secondsLeft !== null && (
          <>
            , <span className="num">{seconds(secondsLeft)}</span> left
          </>
        )}
      </p>
    </div>
  );
}

function workOf({ work, renders, made }: ClipSummary): string {
  const done = renders.filter((r) => r.status === 'done').length;
  if (done > 0) return plural(done, 'file');
  const marked = Object.entries(work.trackers)
    .map(([kind, n]) => plural(n, TRACKERS[kind as keyof typeof TRACKERS]))
    .join(', ');
  if (work.trackedFrames > 1) return `${marked}, ${work.trackedFrames} frames tracked`;
  if (marked) return marked;
  const running = renders.some((r) => r.status === 'running' || r.status === 'waiting');
  if (running) return 'rendering';
  const first = made?.scene?.first;
  return first ? `${first.goal === 'still' ? 'Still' : 'Calm'}, not looked at` : 'not begun';
}
