import { useQuery } from '@tanstack/react-query';
import { useRef, type ReactNode } from 'react';
import { ArrowDown, ArrowUp, Eye, EyeOff, Layers2, Trash2 } from 'lucide-react';
import { changeLayer, isRideGone, moveLayer, type Layer, type LayerKind } from '@lurn/model';
import { Check } from '../../../../components/Check';
import { api } from '../../../../lib/api';
import { bringInClip, bringInGraphics } from '../../../../state/assets';
import { setBench, useBenchParts, type LayerDrawn } from '../../../../state/bench';
import { useKeyTip } from '../../../../state/keymap';
import { deleteLayer } from '../../../../state/layers';
import { concealMover, concealTracker } from '../../../../state/making-layers';
import { edit, useShot } from '../../../../state/shot';
import type { Helpers } from '../../stations/station';
import { LayerDetails } from './LayerDetails';
import { LAYER_VIEWS, layerView } from './kinds/layer-views';
import { MoverChoice } from './MoverChoice';
import { Hint, Section } from '../Section';

type Begin = NonNullable<ReturnType<typeof layerView>['begin']>;
const VIEWS = Object.entries(LAYER_VIEWS) as [LayerKind, ReturnType<typeof layerView>][];

/** The layers: made here, put in order, and what is chosen of the selected one. */
export function LayersPanel({ plater }: Pick<Helpers, 'plater'>) {
  const { layer, selected } = useBenchParts('layer', 'selected');
  const { document } = useShot((s) => s.state);
  const chosen = document.layers.find((l) => l.id === layer);
  const tracker = document.trackers.find((t) => selected.includes(t.id));
  return (
    <>
      <Section title="New layer">
        <NewLayers />
        <PlateButton plater={plater} />
        <ClipChoice />
        <MoverChoice
          label="Conceal"
          title="A blurred shape about something that moves, riding on it"
          run={concealMover}
        />
        {tracker && (
          <button
            type="button"
            className="btn btn-sm w-full"
            title="A blurred shape of fitting size that rides on it"
            onClick={() => concealTracker(tracker.id)}
          >
            Conceal {tracker.name}
          </button>
        )}
      </Section>
      <Section title="Layers">
        <LayerList />
      </Section>
      {chosen && <LayerDetails key={chosen.id} layer={chosen} />}
    </>
  );
}

function NewLayers() {
  const { tool } = useBenchParts('tool');
  const input = useRef<HTMLInputElement>(null);
  const drawing = tool.id === 'area' ? tool.kind : null;
  const begin = (kind: LayerKind, by: Begin['by']) => {
    if (by === 'file') input.current?.click();
    else if (by !== 'drawing') by();
    else setBench({ tool: drawing === kind ? { id: 'mark' } : { id: 'area', kind: kind as LayerDrawn } });
  };
  return (
    <div className="grid grid-cols-2 gap-1.5">
      {VIEWS.map(([kind, { icon: Icon, begin: button }]) =>
        button ? (
          <button
            key={kind}
            type="button"
            className={`btn btn-sm justify-start gap-1.5 px-2 ${drawing === kind ? 'btn-primary' : ''}`}
            aria-pressed={button.by === 'drawing' ? drawing === kind : undefined}
            title={button.title}
            onClick={() => begin(kind, button.by)}
          >
            <Icon size={14} aria-hidden="true" />
            {button.text}
          </button>
        ) : null,
      )}
      <input
        ref={input}
        type="file"
        className="hidden"
        aria-label="Graphic file"
        accept=".png,.jpg,.jpeg,.webp,.svg,.mp4,.mov,.webm,.mkv"
        multiple
        onChange={(e) => {
          void bringInGraphics([...(e.target.files ?? [])]);
          e.target.value = '';
        }}
      />
    </div>
  );
}

/** Another shot's clip, for a screen, a sign, a window. */
function ClipChoice() {
  const { clip } = useBenchParts('clip');
  const { data } = useQuery({ queryKey: ['clips'], queryFn: () => api.clips() });
  const others = data?.filter((c) => c.id !== clip.id && c.status === 'ready') ?? [];
  if (others.length === 0) return null;
  return (
    <select
      className="select select-sm w-full"
      aria-label="Clip of another shot"
      title="Another shot's clip as a layer: in step, round and round, or standing"
      value=""
      onChange={(e) => void bringInClip(e.target.value)}
    >
      <option value="" disabled>
        Clip of another shot …
      </option>
      {others.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** Makes a clean plate, and says how far it has come. */
function PlateButton({ plater }: Pick<Helpers, 'plater'>) {
  const { plating } = useBenchParts('plating');
  return (
    <>
      <button
        type="button"
        className="btn btn-sm w-full justify-start gap-1.5 px-2"
        title="The median over time of what is held, as a layer below the others: what passes through is gone"
        onClick={() => void plater.run()}
      >
        <Layers2 size={14} aria-hidden="true" />
        {plating ? 'Stop making the plate' : 'Clean plate'}
      </button>
      {plating && (
        <progress
          className="progress progress-primary h-1.5 w-full"
          aria-label="Clean plate"
          value={plating.done}
          max={plating.total}
        />
      )}
    </>
  );
}

function LayerList() {
  const tip = useKeyTip();
  const { layer: selected, bare } = useBenchParts('layer', 'bare');
  const state = useShot((s) => s.state);
  const { layers } = state.document;
  if (layers.length === 0)
    return (
      <Hint>
        Work that rides: it is laid on the steadied picture and goes with what it rides on, also in the
        picture as it was shot.
      </Hint>
    );
  return (
    <>
      <ul aria-label="Layers" className="space-y-px">
        {/* The topmost first, as they lie. */}
        {[...layers].reverse().map((layer, i) => (
          <Row
            key={layer.id}
            layer={layer}
            at={layers.length - 1 - i}
            of={layers.length}
            selected={layer.id === selected}
            gone={isRideGone(state, layer)}
          />
        ))}
      </ul>
      <Check
        title={tip('The pictures with and without the layers', 'bare')}
        checked={!bare}
        onChange={(on) => setBench({ bare: !on })}
      >
        Show the layers
      </Check>
    </>
  );
}

function Row({
  layer,
  at,
  of,
  selected,
  gone,
}: {
  readonly layer: Layer;
  readonly at: number;
  readonly of: number;
  readonly selected: boolean;
  readonly gone: boolean;
}) {
  const { icon: Icon } = layerView(layer);
  const { id, name, shown } = layer;
  const small = (label: string, icon: ReactNode, run: () => void, disabled = false) => (
    <button
      type="button"
      className="btn btn-ghost btn-xs btn-square"
      aria-label={label}
      title={label}
      disabled={disabled}
      onClick={run}
    >
      {icon}
    </button>
  );
  return (
    <li className={`flex items-center rounded-sm ${selected ? 'bg-base-300' : ''}`}>
      {small(
        shown ? `Hide ${name}` : `Show ${name}`,
        shown ? <Eye size={13} aria-hidden="true" /> : <EyeOff size={13} aria-hidden="true" />,
        () => edit((s) => changeLayer(s, id, { shown: !shown })),
      )}
      <button
        type="button"
        aria-pressed={selected}
        className={`flex min-w-0 grow items-center gap-1.5 px-1 py-0.5 text-left ${shown ? '' : 'quiet'}`}
        onClick={() => setBench({ layer: selected ? null : id, tool: { id: 'mark' } })}
      >
        <Icon size={13} className="shrink-0" aria-hidden="true" />
        <span className="truncate">{name}</span>
        {gone && <span className="shrink-0 text-xs text-warning">▲ rides on nothing</span>}
      </button>
      {small(
        `Move ${name} up`,
        <ArrowUp size={13} aria-hidden="true" />,
        () => edit((s) => moveLayer(s, id, at + 1)),
        at === of - 1,
      )}
      {small(
        `Move ${name} down`,
        <ArrowDown size={13} aria-hidden="true" />,
        () => edit((s) => moveLayer(s, id, at - 1)),
        at === 0,
      )}
      {small(`Delete ${name}`, <Trash2 size={13} aria-hidden="true" />, () => {
        setBench({ layer: id });
        deleteLayer();
      })}
    </li>
  );
}
