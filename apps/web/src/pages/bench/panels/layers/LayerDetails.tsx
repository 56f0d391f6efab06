import { isRideGone, layerRules, LIMITS, removeLayerKey, setLayerKey, type Layer } from '@lurn/model';
import { keyedAt, type Blend } from '@lurn/core/compose';
import { Check } from '../../../../components/Check';
import { NameField } from '../../../../components/NameField';
import { NumberField } from '../../../../components/NumberField';
import { Slider } from '../../../../components/Slider';
import { goTo, useBenchParts } from '../../../../state/bench';
import { change, rideOn } from '../../../../state/layers';
import { beginGesture, edit, endGesture, useShot } from '../../../../state/shot';
import { Choice } from '../Choice';
import { layerView } from './kinds/layer-views';
import { LayerMattes } from './LayerMattes';
import { Fold, Hint, Section } from '../Section';
import { useRides } from './use-rides';

const BLENDS: Readonly<Record<Blend, string>> = {
  normal: 'normal',
  multiply: 'multiply',
  screen: 'screen',
  overlay: 'overlay',
  softLight: 'soft light',
  add: 'add',
};

/** What is chosen of the selected layer. */
export function LayerDetails({ layer }: { readonly layer: Layer }) {
  const { frame } = useBenchParts('frame');
  const { id, name, blend } = layer;
  const own = layer.frame;
  const { Fields } = layerView(layer);
  return (
    <>
      <Section title={name}>
        <NameField
          label="Name"
          of="Name of the layer"
          name={name}
          onName={(text) => change(id, { name: text })}
        />
        <Fields layer={layer} />
        <Opacity layer={layer} />
        {layerRules(layer).blends && (
          <Choice label="Blend" value={blend} options={BLENDS} onChange={(v) => change(id, { blend: v })} />
        )}
      </Section>
      <Section title="What it rides on">
        <Riding layer={layer} />
        <div className="flex items-center gap-2">
          <span className="grow">Made on frame</span>
          <button type="button" className="btn btn-xs num" disabled={frame === own} onClick={() => goTo(own)}>
            {own}
          </button>
        </div>
      </Section>
      <Section title="Inside, and in front">
        <LayerMattes layer={layer} />
      </Section>
      <Section title="When">
        <When layer={layer} />
      </Section>
    </>
  );
}

/** Opacity: throughout, or keyed as soon as there is one key. */
function Opacity({ layer }: { readonly layer: Layer }) {
  const { frame } = useBenchParts('frame');
  const { id, keys } = layer;
  const now = keyedAt(layer, frame);
  const here = keys.find((k) => k.frame === frame);
  const set = (part: Partial<typeof now>) => {
    const easing = here?.easing ?? 'smooth';
    const { opacity, x, y } = { ...now, ...part };
    edit((s) => setLayerKey(s, id, { frame, easing, opacity, x, y }));
  };
  return (
    <>
      <Slider
        label="Opacity"
        unit="%"
        value={now.opacity * 100}
        min={0}
        max={100}
        onChange={(v) => (keys.length > 0 ? set({ opacity: v / 100 }) : change(id, { opacity: v / 100 }))}
      />
      <Fold title={keys.length > 0 ? `Keys (${keys.length})` : 'Keys'}>
        <div className="flex gap-1.5">
          <button
            type="button"
            className="btn btn-xs grow"
            onClick={() => set({})}
            disabled={here !== undefined}
          >
            Key on frame <span className="num">{frame}</span>
          </button>
          <button
            type="button"
            className="btn btn-xs"
            disabled={!here}
            onClick={() => edit((s) => removeLayerKey(s, id, frame))}
          >
            Take out
          </button>
        </div>
        {keys.length > 0 && (
          <>
            {(['x', 'y'] as const).map((axis) => (
              <NumberField
                key={axis}
                label={axis === 'x' ? 'Moved across' : 'Moved down'}
                unit="px"
                value={now[axis]}
                min={-1e4}
                max={1e4}
                decimals={1}
                onDragStart={beginGesture}
                onDragEnd={endGesture}
                onChange={(v) => set({ [axis]: v })}
              />
            ))}
            {here && (
              <Choice
                label="From here on"
                value={here.easing}
                options={{ smooth: 'smooth', linear: 'in a line', hold: 'hold' }}
                onChange={(easing) => edit((s) => setLayerKey(s, id, { ...here, easing }))}
              />
            )}
            <div className="flex flex-wrap gap-1">
              {keys.map((k) => (
                <button
                  key={k.frame}
                  type="button"
                  className={`btn btn-xs num px-1.5 ${k.frame === frame ? 'btn-primary' : ''}`}
                  onClick={() => goTo(k.frame)}
                >
                  {k.frame}: {Math.round(k.opacity * 100)} %
                </button>
              ))}
            </div>
          </>
        )}
      </Fold>
    </>
  );
}

function Riding({ layer }: { readonly layer: Layer }) {
  const { options, parse } = useRides();
  const gone = useShot((s) => isRideGone(s.state, layer));
  const { id, rides, unknown } = layer;
  const key = `${rides.on}:${rides.id}`;
  const all =
    key in options ? options : { ...options, [key]: gone ? 'nothing: deleted' : rides.id || 'what is held' };
  const flag = (part: 'rotation' | 'scale', text: string) => (
    <Check checked={rides[part]} onChange={(on) => change(id, { rides: { ...rides, [part]: on } })}>
      {text}
    </Check>
  );
  return (
    <>
      <Choice
        label="Rides on"
        value={key}
        options={all}
        onChange={(v) => rideOn(id, { ...rides, ...parse(v) })}
      />
      {gone && (
        <p className="text-xs text-warning">
          ▲ What it rode on has been deleted: it stays where it was made. Choose something else above.
        </p>
      )}
      {rides.on === 'mover' && (
        <div className="flex gap-4">
          {flag('rotation', 'turns with it')}
          {flag('scale', 'grows with it')}
        </div>
      )}
      {rides.on !== 'frame' && (
        <Choice
          label="Where not known"
          value={unknown}
          options={{ bridge: 'bridged', hold: 'held', fade: 'fades out', off: 'not shown' }}
          onChange={(v) => change(id, { unknown: v })}
        />
      )}
      {rides.on === 'frame' && <Hint>It stays in its place of the frame, whatever moves.</Hint>}
    </>
  );
}

function When({ layer }: { readonly layer: Layer }) {
  const { info } = useBenchParts('info');
  const { id, range, grain } = layer;
  const span = range ?? { from: 0, to: info.frames - 1 };
  const set = (part: Partial<typeof span>) => {
    const next = { ...span, ...part };
    const whole = next.from === 0 && next.to === info.frames - 1;
    change(id, { range: whole || next.from > next.to ? null : next });
  };
  const edge = (side: 'from' | 'to', label: string) => (
    <NumberField
      label={label}
      value={span[side]}
      min={side === 'from' ? 0 : span.from}
      max={side === 'to' ? info.frames - 1 : span.to}
      decimals={0}
      onDragStart={beginGesture}
      onDragEnd={endGesture}
      onChange={(v) => set({ [side]: v })}
    />
  );
  return (
    <>
      {edge('from', 'From frame')}
      {edge('to', 'To frame')}
      <NumberField
        label="Grain"
        unit="/255"
        value={grain}
        min={LIMITS.grain[0]}
        max={LIMITS.grain[1]}
        decimals={1}
        onDragStart={beginGesture}
        onDragEnd={endGesture}
        onChange={(v) => change(id, { grain: v })}
      />
    </>
  );
}
