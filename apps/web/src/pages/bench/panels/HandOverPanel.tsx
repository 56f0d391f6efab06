import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { mostZoom } from '@lurn/core/plan';
import {
  changeDelivery,
  comparedBy,
  soundStays,
  type ClipInfo,
  type Delivery,
  type FormatSummary,
} from '@lurn/model';
import { Check } from '../../../components/Check';
import { api, messageOf, renderUrl } from '../../../lib/api';
import { NameField } from '../../../components/NameField';
import { Segments } from '../../../components/Segments';
import { percent, plural, seconds } from '../../../lib/format';
import { useBenchParts } from '../../../state/bench';
import { edit, useShot } from '../../../state/shot';
import { bringInShotFile, saveShotFile } from '../../../state/shot-files';
import type { Helpers } from '../stations/station';
import { CornerPin } from './CornerPin';
import { DataOut } from './data-out/DataOut';
import { Deliveries } from './Deliveries';
import { RenderRow } from './RenderRow';
import { Hint, Reading, Section } from './Section';

const QUALITIES = [
  [14, 'Master', 'hardly distinguishable from the source; large'],
  [18, 'High', 'for handing over'],
  [23, 'Review', 'small, to look at'],
] as const;

export function HandOverPanel({ saver }: Helpers) {
  const { clip, steady, info, times } = useBenchParts('clip', 'steady', 'info', 'times');
  const { range, edges, deliveries, layers } = useShot((s) => s.state.document);
  const [chosen, setChosen] = useState('');
  const delivery = deliveries.find((d) => d.id === chosen) ?? deliveries[0];
  const { id, picture, base, size } = delivery;
  const asShot = picture === 'as-shot';
  const { width, height } = asShot ? info : (size ?? info);
  const compared = comparedBy(delivery);
  const transparent = !base || (edges.mode === 'transparent' && !asShot);
  const { data: formats = [] } = useQuery({
    queryKey: ['formats'],
    queryFn: api.formats,
    staleTime: Infinity,
  });
  const offered = formats.filter((f) => f.alpha || !transparent);
  // What has no alpha is stood in for by the plainest that has.
  const format = offered.find((f) => f.id === delivery.format) ?? offered[0];
  const [ordering, setOrdering] = useState(false);
  const [playing, setPlaying] = useState<string | null>(null);
  const frames = range.to - range.from + 1;
  const order = async (list: readonly Delivery[]) => {
    setOrdering(true);
    try {
      const revision = await saver.settled();
      for (const d of list) await api.render(clip.id, revision, d.settings.crf, d.id);
    } catch (error) {
      toast.error(messageOf(error), { id: 'render' });
    } finally {
      setOrdering(false);
    }
  };
  return (
    <>
      <Deliveries chosen={delivery} formats={formats} onChoose={setChosen} />
      <Section title="Render">
        <NameField
          label="Called"
          of="Name of the delivery"
          name={delivery.name}
          onName={(name) => edit((s) => changeDelivery(s, id, { name }))}
        />
        <Segments
          label="Picture"
          value={picture}
          options={{ steadied: 'Steadied', 'as-shot': 'As shot' }}
          titles={{
            steadied: 'The steadied picture, with its layers',
            'as-shot': 'The picture as it was shot, with the layers given back to it',
          }}
          onChange={(v) => edit((s) => changeDelivery(s, id, { picture: v }))}
        />
        {!asShot && base && (
          <label className="flex items-center justify-between gap-2">
            <span className="quiet">Before and after</span>
            <select
              className="select select-xs w-36"
              value={delivery.compare ?? ''}
              onChange={(e) =>
                edit((s) =>
                  changeDelivery(s, id, { compare: (e.target.value || undefined) as Delivery['compare'] }),
                )
              }
            >
              <option value="">no</option>
              <option value="beside">beside it</option>
              <option value="above">above it</option>
              <option value="wipe">wiped over it</option>
            </select>
          </label>
        )}
        {compared && (
          <label className="flex items-center justify-between gap-2">
            <span className="quiet">“Before” and “After” written in</span>
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={delivery.labels ?? false}
              onChange={(e) => edit((s) => changeDelivery(s, id, { labels: e.target.checked || undefined }))}
            />
          </label>
        )}
        {asShot && (
          <Hint>
            {layers.length > 0
              ? 'The layers ride on the picture as it was shot. Where there is no layer it stays as it was decoded.'
              : 'There are no layers: the picture comes out as it was shot.'}
          </Hint>
        )}
        {layers.length > 0 && (
          <Check
            title="For another program to lay over the picture"
            checked={!base}
            onChange={(on) => edit((s) => changeDelivery(s, id, { base: !on }))}
          >
            The layers alone, with alpha
          </Check>
        )}
        <label className="flex items-center justify-between gap-2">
          <span className="quiet">Written as</span>
          <select
            className="select select-xs w-44"
            aria-label="Format"
            value={format?.id ?? ''}
            onChange={(e) => edit((s) => changeDelivery(s, id, { format: e.target.value }))}
          >
            {offered.map((f) => (
              <option key={f.id} value={f.id}>
                {f.name}
              </option>
            ))}
          </select>
        </label>
        {format && <Hint>{format.use}.</Hint>}
        {format?.settings.includes('crf') && <Quality delivery={delivery} />}
        <Reading
          label="Frames"
          value={`${range.from} to ${range.to} (${seconds(frames === info.frames ? info.duration : (times[range.to] ?? 0) - (times[range.from] ?? 0) + 1 / info.fps)})`}
        />
        {!asShot && (
          <Reading
            label="Zoom at most"
            value={percent(steady ? mostZoom(steady, range.from, range.to) : 1, 2)}
          />
        )}
        <Reading
          label="Size"
          value={`${(width & ~1) * (compared?.way === 'beside' ? 2 : 1)} × ${(height & ~1) * (compared?.way === 'above' ? 2 : 1)} px`}
        />
        <Reading label="Sound" value={soundOf(info, format)} />
        {!asShot && steady && steady.edgeFrames.length > 0 && edges.mode === 'colour' && (
          <p className="text-xs text-error">
            ▲ An edge will show on {plural(steady.edgeFrames.length, 'frame')}. At Frame there is the fit
            zoom.
          </p>
        )}
        <button
          type="button"
          className="btn btn-primary btn-sm w-full"
          disabled={(!steady && !asShot) || ordering}
          onClick={() => void order([delivery])}
        >
          {asShot ? 'Render the picture as shot' : 'Render the steadied picture'}
        </button>
        {deliveries.length > 1 && (
          <button
            type="button"
            className="btn btn-sm w-full"
            disabled={ordering || !(steady || deliveries.every((d) => d.picture === 'as-shot'))}
            onClick={() => void order(deliveries)}
          >
            Render all {deliveries.length} deliveries
          </button>
        )}
        {!steady && !asShot && <Hint>Track a spot first: there is no motion to take out yet.</Hint>}
      </Section>
      <Section title="Files">
        {clip.renders.length === 0 && <Hint>Finished files appear here, to play and to download.</Hint>}
        <ul className="space-y-3" aria-live="polite">
          {clip.renders.map((r) => (
            <RenderRow key={r.id} render={r} onPlay={() => setPlaying(r.id)} />
          ))}
        </ul>
      </Section>
      <DataOut />
      <CornerPin />
      <ShotFile />
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

/** What becomes of the clip's sound. */
function soundOf(info: ClipInfo, format: FormatSummary | undefined): string {
  const { audio } = info;
  if (!audio) return 'none';
  if (!format?.sound) return format ? 'none, it holds pictures alone' : '…';
  return soundStays(format.sound, audio.codec)
    ? `${audio.codec}, as it is`
    : `${audio.codec}, as ${format.sound.anew}`;
}

/** The whole shot as a file: to keep, to hand on, for the command line. */
function ShotFile() {
  const input = useRef<HTMLInputElement>(null);
  return (
    <Section title="The shot as a file">
      <div className="grid grid-cols-2 gap-1.5">
        <button
          type="button"
          className="btn btn-sm"
          title="Everything about the shot but the clip itself, in one zip"
          onClick={() => void saveShotFile().catch((e: unknown) => toast.error(messageOf(e)))}
        >
          Save the shot
        </button>
        <button
          type="button"
          className="btn btn-sm"
          title="Takes a saved shot over in place of this one; undo brings this one back"
          onClick={() => input.current?.click()}
        >
          Bring in …
        </button>
      </div>
      <input
        ref={input}
        type="file"
        className="hidden"
        aria-label="Shot file"
        accept=".zip,.json"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) void bringInShotFile(file);
          e.target.value = '';
        }}
      />
    </Section>
  );
}

function Quality({ delivery: { id, settings } }: { readonly delivery: Delivery }) {
  return (
    <div className="grid gap-1" role="radiogroup" aria-label="Quality">
      {QUALITIES.map(([value, name, use]) => (
        <label key={value} className="flex cursor-pointer items-baseline gap-2">
          <input
            type="radio"
            name="quality"
            className="radio radio-xs translate-y-0.5"
            checked={settings.crf === value}
            onChange={() => edit((s) => changeDelivery(s, id, { settings: { ...settings, crf: value } }))}
          />
          <span className="w-14 shrink-0">{name}</span>
          <span className="quiet text-xs">{use}</span>
        </label>
      ))}
    </div>
  );
}
