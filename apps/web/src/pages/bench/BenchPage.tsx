import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import { isHdr } from '@lurn/core/picture';
import type { ClipFile } from '@lurn/media';
import type { ClipSummary } from '@lurn/model';
import { ThemeButton } from '../../components/ThemeButton';
import { IconButton } from '../../components/Tip';
import { api, filesOf, messageOf } from '../../lib/api';
import { rate, seconds, timeCode } from '../../lib/format';
import { useServerEvents } from '../../lib/events';
import { bench, openBench, setBench, useBench, useBenchParts } from '../../state/bench';
import { keepBlinking } from '../../state/blinking';
import { keepFaces } from '../../state/faces';
import { keepFollowing } from '../../state/following';
import { keepMasks } from '../../state/mover-masks';
import { SpotQuality } from '../../state/spot-quality';
import { Measurer } from '../../state/measuring';
import { Plater } from '../../state/plates';
import { keepPlaying } from '../../state/player';
import { Saver } from '../../state/saving';
import { openShot } from '../../state/shot';
import { keepLooking } from '../../state/surface-look';
import { keepScene } from '../../state/scene';
import { keepSounding } from '../../state/sound';
import { keepSolved } from '../../state/solving';
import { Tracker } from '../../state/tracking';
import { openFaces } from '../../workers/open-faces';
import { openPlanner } from '../../workers/open-planner';
import { Course } from './Course';
import { benchActions } from './keys';
import { useKeys } from './keys/useKeys';
import { ImportDialog } from './import/ImportDialog';
import { KeySheet } from './KeySheet';
import { NumbersDialog } from './NumbersDialog';
import { stationOf, type Helpers } from './stations';
import { Strips } from './strips/Strips';
import { Transport } from './Transport';
import { TwinView } from './view/TwinView';

interface Opened extends Helpers {
  readonly file: ClipFile;
  readonly reduced: ClipFile | null;
}

/** Loads a shot and opens the Bench on it. */
export function BenchPage() {
  const { id = '' } = useParams();
  const [opened, setOpened] = useState<Opened | null>(null);
  const [failure, setFailure] = useState<string | null>(null);
  /** Grows when the clip turns out to be another than it was taken for while it was being read. */
  const [round, setRound] = useState(0);

  useEffect(() => {
    let gone = false;
    let close: () => void = () => undefined;
    const open = async () => {
      const [clip, { times }, saved] = await Promise.all([api.clip(id), api.times(id), api.shot(id)]);
      if (gone) return;
      // It is read in its turn otherwise.
      if (clip.status === 'reading') api.readFirst(id).catch(() => undefined);
      const stamps = Float64Array.from(times);
      const files = filesOf(clip, stamps);
      const { file } = files;
      const forget = openBench(clip, stamps, saved.revision);
      const base = { document: saved.document, measured: saved.measured };
      openShot(Saver.recover(id, base, saved.revision, clip.info!));
      const saver = new Saver(id, base, saved.revision);
      const faces = () => openFaces(file, clip.info!);
      const tracker = new Tracker(file, faces);
      const quality = new SpotQuality(file);
      const measurer = new Measurer(file);
      const plater = new Plater(file);
      const stops = [
        keepScene(),
        keepMasks((scene, frame) => quality.masks(scene, frame)),
        keepSolved(openPlanner()),
        keepPlaying(),
        keepFollowing(),
        keepBlinking(),
        keepSounding(),
        keepLooking(tracker),
        keepFaces((frame) => {
          const model = faces();
          return { found: model.find(frame), stop: () => model.close() };
        }),
      ];
      close = () => {
        tracker.close();
        saver.close();
        quality.close();
        measurer.close();
        plater.close();
        bench().masking?.stop();
        stops.forEach((stop) => stop());
        forget();
      };
      setOpened({ tracker, quality, saver, measurer, plater, ...files });
    };
    open().catch((error: unknown) => setFailure(messageOf(error)));
    return () => {
      gone = true;
      close();
      setOpened(null);
    };
  }, [id, round]);

  if (failure) return <Failure message={failure} />;
  if (!opened) return <p className="quiet p-6">Opening the shot …</p>;
  return <Bench key={`${id} ${round}`} {...opened} reopen={() => setRound((n) => n + 1)} />;
}

function Failure({ message }: { readonly message: string }) {
  return (
    <div className="space-y-3 p-6" role="alert">
      <p>This shot cannot be opened. {message}</p>
      <Link className="btn btn-sm" to="/">
        Back to the shots
      </Link>
    </div>
  );
}

function Bench({ file, reduced, reopen, ...helpers }: Opened & { readonly reopen: () => void }) {
  const { tracker, quality, saver } = helpers;
  const actions = useMemo(() => benchActions(tracker, quality), [tracker, quality]);
  useKeys(actions);
  const numbers = useBench((s) => s.numbers);
  const importing = useBench((s) => s.importing);
  const keySheet = useBench((s) => s.keySheet);
  const problem = useBench((s) => s.problem);
  const across = useDefaultLayout({ id: 'lurn.across', storage: localStorage });
  const down = useDefaultLayout({ id: 'lurn.down', storage: localStorage });
  useFresh(saver, reopen);
  return (
    <div className="flex h-full flex-col">
      <Header />
      {problem && (
        <div role="alert" className="flex items-center gap-3 bg-error/15 px-3 py-1.5">
          <span className="grow">▲ {problem.message}</span>
          <button type="button" className="btn btn-xs" onClick={() => setBench({ problem: null })}>
            Close
          </button>
        </div>
      )}
      <Group orientation="vertical" className="min-h-0 grow" {...down}>
        <Panel id="work" minSize="40%" defaultSize="71%">
          <Group orientation="horizontal" className="h-full" {...across}>
            <Panel id="course" minSize="130px" maxSize="260px" defaultSize="160px" className="bg-base-200">
              <Course />
            </Panel>
            <Separator className="w-px bg-base-300 hover:bg-primary focus-visible:bg-primary" />
            <Panel id="view" minSize="35%">
              <div className="flex h-full flex-col">
                <div className="min-h-0 grow">
                  <TwinView file={file} reduced={reduced} lender={tracker} />
                </div>
                <Transport actions={actions} />
              </div>
            </Panel>
            <Separator className="w-px bg-base-300 hover:bg-primary focus-visible:bg-primary" />
            <Panel id="station" minSize="220px" maxSize="460px" defaultSize="300px" className="bg-base-200">
              <StationPanel {...helpers} />
            </Panel>
          </Group>
        </Panel>
        <Separator className="h-px bg-base-300 hover:bg-primary focus-visible:bg-primary" />
        <Panel id="strips" minSize="70px" defaultSize="29%">
          <Strips />
        </Panel>
      </Group>
      {keySheet && <KeySheet actions={actions} />}
      {importing && <ImportDialog />}
      {numbers && <NumbersDialog />}
    </div>
  );
}

function StationPanel(helpers: Helpers) {
  const { Panel } = stationOf(useBench((s) => s.station));
  return (
    <aside aria-label="Station" className="h-full overflow-y-auto">
      <Panel {...helpers} />
    </aside>
  );
}

const SAVING = { saved: 'saved', saving: 'saving …', unsaved: 'saving …', failed: 'not saved' } as const;

function Header() {
  const { clip, info, saving } = useBenchParts('clip', 'info', 'saving');
  return (
    <header className="rule flex h-9 items-center gap-3 border-b bg-base-200 px-2">
      <Link to="/" className="btn btn-ghost btn-xs" title="All shots">
        Shots
      </Link>
      <h1 className="truncate font-semibold">{clip.name}</h1>
      <span className="num quiet truncate text-xs">
        {info.width} × {info.height}, {info.rate ? rate(info.fps) : `${rate(info.fps)} on average`},{' '}
        {timeCode(info.duration, info.fps)}
        {isHdr(info.colour) && (
          <span title="Brighter than reference white is rolled off to fit this screen (ITU-R BT.2390). What is measured and delivered keeps its full range.">
            , HDR ({info.colour.transfer === 'smpte2084' ? 'PQ' : 'HLG'}), shown tone-mapped
          </span>
        )}
      </span>
      {clip.usesCopy && (
        <span
          className="quiet text-xs"
          title="The browser cannot play the original frame for frame. Renders read the original."
        >
          working copy
        </span>
      )}
      {(clip.status === 'reading' || clip.status === 'copying') && (
        <span className="num quiet text-xs whitespace-nowrap" role="status" aria-label="Reading">
          {clip.progress === 0
            ? 'waits to be read'
            : `${clip.status === 'copying' ? 'copying' : 'reading'} ${clip.progress} of ${info.frames} frames`}
          {clip.secondsLeft !== null && `, ${seconds(clip.secondsLeft)} left`}
        </span>
      )}
      {info.warning && <span className="truncate text-xs text-warning">▲ {info.warning}</span>}
      <span className="grow" />
      <span
        className={`text-xs ${saving === 'failed' ? 'text-error' : 'quiet'}`}
        role="status"
        aria-label="Saving"
      >
        {saving === 'failed' ? '▲ ' : ''}
        {SAVING[saving]}
      </span>
      <IconButton label="Keys" action="keys" onClick={() => setBench({ keySheet: true })}>
        <span className="num">?</span>
      </IconButton>
      <ThemeButton />
    </header>
  );
}

/** What a clip is read from: when that changes, the Bench is opened anew. */
const filesKey = ({ usesCopy, made }: ClipSummary) =>
  JSON.stringify([usesCopy, made?.copy ?? null, made?.reduced ?? null]);

/** Keeps the clip's renders, and what other tabs save, up to date. */
function useFresh(saver: Saver, reopen: () => void): void {
  const id = useBench((s) => s.clip.id);
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: ['clip', id], queryFn: () => api.clip(id) });
  useEffect(() => {
    if (!data?.info) return;
    const { clip, info } = bench();
    const other = data.info.frames !== info.frames || filesKey(data) !== filesKey(clip);
    if (other) reopen();
    else setBench({ clip: data, info: data.info });
  }, [data, reopen]);
  useServerEvents((event) => {
    if (event.kind === 'clip' && event.id === id) void client.invalidateQueries({ queryKey: ['clip', id] });
    if (event.kind === 'shot' && event.id === id) void saver.follow(event.revision);
    if (event.kind === 'render' && event.render.clipId === id) {
      client.setQueryData<ClipSummary>(['clip', id], (clip) => {
        if (!clip) return clip;
        const others = clip.renders.filter((r) => r.id !== event.render.id);
        const renders = [event.render, ...others].sort((a, b) => b.createdAt.localeCompare(a.createdAt));
        return { ...clip, renders };
      });
    }
  });
}
