import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { mostZoom } from '@lurn/core';
import { changeDelivery, soundIsCopied } from '@lurn/model';
import { api, messageOf, renderUrl } from '../../../lib/api';
import { Segments } from '../../../components/Segments';
import { percent, plural, seconds } from '../../../lib/format';
import { useBenchParts } from '../../../state/bench';
import { edit, shotDocument, useShot } from '../../../state/shot';
import { bringInShotFile, saveShotFile } from '../../../state/shot-files';
import type { Helpers } from '../stations/station';
import { CornerPin } from './CornerPin';
import { DataOut } from './DataOut';
import { MeshOut } from './MeshOut';
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
  const [{ id, picture, base, size }] = deliveries;
  const asShot = picture === 'as-shot';
  const { width, height } = asShot ? info : (size ?? info);
  const transparent = !base || (edges.mode === 'transparent' && !asShot);
  const { data: formats = [] } = useQuery({
    queryKey: ['formats'],
    queryFn: api.formats,
    staleTime: Infinity,
  });
  // The plainest of those that keep what the picture has.
  const format = formats.find((f) => f.alpha === transparent);
  const [ordering, setOrdering] = useState(false);
  const [playing, setPlaying] = useState<string | null>(null);
  const frames = range.to - range.from + 1;
  const order = async () => {
    setOrdering(true);
    try {
      const revision = await saver.settled();
      await api.render(clip.id, revision, shotDocument().deliveries[0].settings.crf);
    } catch (error) {
      toast.error(messageOf(error), { id: 'render' });
    } finally {
      setOrdering(false);
    }
  };
  return (
    <>
      <Section title="Render">
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
        {asShot && (
          <Hint>
            {layers.length > 0
              ? 'The layers ride on the picture as it was shot. Where there is no layer it stays as it was decoded.'
              : 'There are no layers: the picture comes out as it was shot.'}
          </Hint>
        )}
        {layers.length > 0 && (
          <label
            className="flex cursor-pointer items-center gap-2"
            title="For another program to lay over the picture"
          >
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={!base}
              onChange={(e) => edit((s) => changeDelivery(s, id, { base: !e.target.checked }))}
            />
            The layers alone, with alpha
          </label>
        )}
        {format?.settings.includes('crf') && <Quality />}
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
        <Reading label="File" value={format?.name ?? '…'} />
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
          onClick={() => void order()}
        >
          {asShot ? 'Render the picture as shot' : 'Render the steadied picture'}
        </button>
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
      <MeshOut />
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

function Quality() {
  const { id, settings } = useShot((s) => s.state.document.deliveries[0]);
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
