import { useQuery, useQueryClient } from '@tanstack/react-query';
import { FileVideo, Trash2, Upload, X } from 'lucide-react';
import { useCallback, useRef, useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { ClipSummary } from '@lurn/model';
import { ThemeButton } from '../../components/ThemeButton';
import { IconButton } from '../../components/Tip';
import { api, messageOf, thumbnailUrl } from '../../lib/api';
import { useServerEvents } from '../../lib/events';
import { bytes, pixels, plural, rate, timeCode } from '../../lib/format';
import { useUploads } from './useUploads';

/** Every clip brought in: what it is, how shaky, and what has been done. */
export function ShotsPage() {
  const client = useQueryClient();
  const { data: clips, error } = useQuery({ queryKey: ['clips'], queryFn: api.clips });
  const refresh = useCallback(() => void client.invalidateQueries({ queryKey: ['clips'] }), [client]);
  useServerEvents(refresh);
  const uploads = useUploads(refresh);
  const chooser = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  return (
    <div
      className="flex h-full flex-col"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={(e) => e.currentTarget === e.target && setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        uploads.add(e.dataTransfer.files);
      }}
    >
      <header className="rule flex h-11 items-center gap-3 border-b bg-base-200 px-4">
        <img src="/icon.svg" alt="" className="size-6" />
        <h1 className="font-semibold">Shots</h1>
        <span className="grow" />
        <input
          ref={chooser}
          type="file"
          multiple
          accept="video/*,.mkv,.mov,.mxf,.mts"
          className="hidden"
          aria-label="Video files"
          onChange={(e) => {
            uploads.add([...(e.target.files ?? [])]);
            e.target.value = '';
          }}
        />
        <button type="button" className="btn btn-primary btn-sm" onClick={() => chooser.current?.click()}>
          <Upload size={14} /> Bring in a clip
        </button>
        <ThemeButton />
      </header>
      <main className="min-h-0 grow overflow-y-auto p-4">
        {error && (
          <p role="alert" className="text-error">
            ▲ {messageOf(error)}
          </p>
        )}
        <ul className="mb-4 space-y-2 empty:hidden" aria-label="Uploads" aria-live="polite">
          {uploads.items.map((u) => (
            <li key={u.key} className="rule flex items-center gap-3 border-b pb-2">
              <span className="w-64 truncate">{u.name}</span>
              {u.error ? (
                <span className="grow text-error">▲ {u.error}</span>
              ) : (
                <>
                  <progress
                    className="progress progress-primary grow"
                    value={u.sent}
                    max={u.total}
                    aria-label={`Upload of ${u.name}`}
                  />
                  <span className="num quiet w-40 text-right text-xs">
                    {bytes(u.sent)} of {bytes(u.total)}
                  </span>
                </>
              )}
              <IconButton label={u.error ? 'Close' : 'Stop the upload'} onClick={() => uploads.remove(u.key)}>
                <X size={14} />
              </IconButton>
            </li>
          ))}
        </ul>
        {clips?.length === 0 && uploads.items.length === 0 && (
          <div className="grid h-2/3 place-content-center gap-3 text-center">
            <p>No shots yet. Drop a video file here, or choose one.</p>
            <button
              type="button"
              className="btn btn-primary btn-sm mx-auto"
              onClick={() => chooser.current?.click()}
            >
              Bring in a clip
            </button>
          </div>
        )}
        <ul
          className="grid gap-x-5 gap-y-6"
          style={{ gridTemplateColumns: 'repeat(auto-fill, minmax(270px, 1fr))' }}
        >
          {clips?.map((clip) => (
            <ShotCard key={clip.id} clip={clip} />
          ))}
        </ul>
      </main>
      {over && (
        <div className="pointer-events-none absolute inset-3 grid place-content-center border-2 border-dashed border-primary bg-base-100/80 text-lg">
          Drop to bring the clip in
        </div>
      )}
    </div>
  );
}

function ShotCard({ clip }: { readonly clip: ClipSummary }) {
  const client = useQueryClient();
  const refresh = () => void client.invalidateQueries({ queryKey: ['clips'] });
  const remove = async () => {
    try {
      await api.deleteClip(clip.id);
      refresh();
      toast(`"${clip.name}" is deleted.`, {
        duration: 12000,
        action: { label: 'Undo', onClick: () => void api.restoreClip(clip.id).then(refresh) },
      });
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  const rename = (name: string) => {
    if (!name || name === clip.name) return;
    api.renameClip(clip.id, name).then(refresh, (error: unknown) => toast.error(messageOf(error)));
  };
  const { info } = clip;
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
    <li aria-label={clip.name}>
      {ready ? (
        <Link
          to={`/shots/${clip.id}`}
          title={`Open ${clip.name} on the Bench`}
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
        <IconButton label={`Delete ${clip.name}`} onClick={() => void remove()}>
          <Trash2 size={14} />
        </IconButton>
      </div>
      {clip.status === 'failed' && (
        <p className="text-error">▲ {clip.error?.message ?? 'It could not be read.'}</p>
      )}
      {(clip.status === 'reading' || clip.status === 'copying') && (
        <p className="quiet flex items-center gap-2" aria-live="polite">
          <span className="loading loading-spinner loading-xs" />
          {clip.status === 'reading' ? 'Reading' : 'Making a working copy'}:{' '}
          <span className="num">{clip.progress}</span> frames
        </p>
      )}
      {ready && (
        <>
          <p className="num quiet text-xs" title={bytes(clip.bytes)}>
            {info.width} × {info.height} &nbsp; {rate(info.fps)} &nbsp; {timeCode(info.duration, info.fps)}
          </p>
          <p className="mt-1 flex justify-between">
            <span title="Root mean square distance of the picture from its own smoothed course">
              Shake <span className="num">{pixels(clip.shakiness ?? NaN)}</span>
            </span>
            <span className="quiet">{workOf(clip)}</span>
          </p>
          {info.warning && <p className="text-xs text-warning">▲ {info.warning}</p>}
        </>
      )}
    </li>
  );
}

function workOf({ work, renders }: ClipSummary): string {
  const done = renders.filter((r) => r.status === 'done').length;
  if (done > 0) return plural(done, 'file');
  if (work.trackedFrames > 1) return `${plural(work.spots, 'spot')}, ${work.trackedFrames} frames tracked`;
  return work.spots > 0 ? plural(work.spots, 'spot') : 'not begun';
}
