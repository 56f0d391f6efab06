import { useQuery, useQueryClient } from '@tanstack/react-query';
import { ListOrdered, Upload } from 'lucide-react';
import { useCallback, useMemo, useRef, useState } from 'react';
import { Notices } from '../../components/Notices';
import { ThemeButton } from '../../components/ThemeButton';
import { api, messageOf } from '../../lib/api';
import { arranged } from '../../lib/shot-list';
import { useShotList } from '../../state/shots';
import { deleteClips } from './delete-clips';
import { ListBar } from './ListBar';
import { Queue } from './Queue';
import { steadyClips, type BatchGoal } from './steady-clips';
import { ShotCard } from './ShotCard';
import { Uploads } from './Uploads';
import { useDrop } from './useDrop';
import { useLiveLists } from './useLiveLists';
import { useSelection } from './useSelection';
import { useUploads } from './useUploads';

/** Every clip brought in: what it is, how shaky, and what has been done. */
export function ShotsPage() {
  const client = useQueryClient();
  const { data: clips, error } = useQuery({
    queryKey: ['clips'],
    // The first of many are shown while the others come.
    queryFn: () => api.clips((seen) => client.setQueryData(['clips'], (known?: unknown) => known ?? seen)),
  });
  const refresh = useCallback(() => void client.invalidateQueries({ queryKey: ['clips'] }), [client]);
  const live = useLiveLists();
  const [queueShown, setQueueShown] = useState(false);
  const uploads = useUploads(refresh);
  const over = useDrop(uploads.add);
  const chooser = useRef<HTMLInputElement>(null);
  const choose = () => chooser.current?.click();
  const [search, setSearch] = useState('');
  const { order, down, large } = useShotList();
  const shown = useMemo(() => arranged(clips ?? [], search, order, down), [clips, search, order, down]);
  const selection = useSelection(shown.map((c) => c.id));
  const deleteSelected = () => {
    void deleteClips(
      shown.filter((c) => selection.has(c.id)),
      refresh,
    );
    selection.clear();
  };
  const steadySelected = (goal: BatchGoal) => {
    void steadyClips(
      shown.filter((c) => selection.has(c.id)),
      goal,
      refresh,
    );
    selection.clear();
  };
  return (
    <div
      className="relative flex h-full flex-col"
      onKeyDown={(e) => {
        if (e.target instanceof HTMLInputElement && e.target.type !== 'checkbox') return;
        if (e.key === 'Escape') selection.clear();
        if (e.key === 'Delete' && selection.size > 0) deleteSelected();
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
          accept="video/*,.mkv,.mov,.mxf,.mts,.zip"
          className="hidden"
          aria-label="Video files"
          onChange={(e) => {
            uploads.add([...(e.target.files ?? [])]);
            e.target.value = '';
          }}
        />
        <button
          type="button"
          className="btn btn-sm"
          aria-pressed={queueShown}
          title="What is rendered and what waits, of all shots"
          onClick={() => setQueueShown(!queueShown)}
        >
          <ListOrdered size={14} /> Queue{live > 0 && <span className="num">{live}</span>}
        </button>
        <button type="button" className="btn btn-primary btn-sm" onClick={choose}>
          <Upload size={14} /> Bring in a clip
        </button>
        <ThemeButton />
      </header>
      {clips && clips.length > 0 && (
        <ListBar
          {...{ search, onSearch: setSearch }}
          shown={shown.length}
          total={clips.length}
          selected={selection.size}
          onSelectAll={selection.all}
          onSelectNone={selection.clear}
          onDelete={deleteSelected}
          onSteady={steadySelected}
        />
      )}
      <div className="flex min-h-0 grow">
        <main className="min-h-0 grow overflow-y-auto p-4">
          {error && (
            <p role="alert" className="text-error">
              ▲ {messageOf(error)}
            </p>
          )}
          <Uploads items={uploads.items} onRemove={uploads.remove} />
          {clips?.length === 0 && uploads.items.length === 0 && (
            <div className="grid h-2/3 place-content-center gap-3 text-center">
              <p>No shots yet. Drop a video file here, or choose one.</p>
              <button type="button" className="btn btn-primary btn-sm mx-auto" onClick={choose}>
                Bring in a clip
              </button>
            </div>
          )}
          {clips && clips.length > 0 && shown.length === 0 && (
            <p className="quiet">No shot is called that. Esc in the search field shows all again.</p>
          )}
          <ul
            className="grid gap-x-5 gap-y-6"
            aria-label="Shots"
            style={{ gridTemplateColumns: `repeat(auto-fill, minmax(${large ? 270 : 165}px, 1fr))` }}
          >
            {shown.map((clip) => (
              <ShotCard
                key={clip.id}
                clip={clip}
                large={large}
                selected={selection.has(clip.id)}
                onSelect={(range) => selection.toggle(clip.id, range)}
              />
            ))}
          </ul>
        </main>
        {queueShown && <Queue onClose={() => setQueueShown(false)} />}
      </div>
      {over && (
        <div className="pointer-events-none absolute inset-3 grid place-content-center border-2 border-dashed border-primary bg-base-100/80 text-lg">
          Drop to bring the clip in
        </div>
      )}
      <Notices offset={16} />
    </div>
  );
}
