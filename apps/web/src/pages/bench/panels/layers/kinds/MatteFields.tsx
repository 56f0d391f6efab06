import type { ComponentType } from 'react';
import type { Layer, LayerMatte } from '@lurn/model';
import { useBenchParts } from '../../../../../state/bench';
import { useShot } from '../../../../../state/shot';
import { Choice } from '../../Choice';
import { OutlineFields } from '../fields';
import { MaskButton, RangeFields, ReachSliders } from '../RangeFields';
import { useRides } from '../use-rides';

type Kind = LayerMatte['kind'];

interface MatteFieldsProps<K extends Kind> {
  readonly layer: Layer;
  readonly matte: Extract<LayerMatte, { kind: K }>;
  readonly set: (part: Readonly<Record<string, unknown>>) => void;
}

function AreaFields({ layer, matte, set }: MatteFieldsProps<'area'>) {
  const { options, parse } = useRides();
  return (
    <>
      <MaskButton layer={layer.id} matte={matte.id} />
      <Choice
        label="It rides on"
        value={`${matte.rides.on}:${matte.rides.id}`}
        options={options}
        onChange={(v) => set({ rides: { ...matte.rides, ...parse(v) } })}
      />
      <OutlineFields outline={matte.outline} onChange={(outline) => set({ outline })} />
    </>
  );
}

function ColourFields({ layer, matte, set }: MatteFieldsProps<'colour'>) {
  return (
    <RangeFields layer={layer.id} matte={matte.id} range={matte.range} onChange={(range) => set({ range })} />
  );
}

function PassingFields({ layer, matte, set }: MatteFieldsProps<'passing'>) {
  const { frame } = useBenchParts('frame');
  return (
    <>
      <MaskButton layer={layer.id} matte={matte.id} />
      <div className="flex items-center gap-2">
        <span className="grow">
          Nothing passes on frame <span className="num">{matte.frame}</span>
        </span>
        <button
          type="button"
          className="btn btn-xs"
          disabled={frame === matte.frame}
          onClick={() => set({ frame })}
        >
          This frame
        </button>
      </div>
      <ReachSliders label="Differs by" of={matte} max={60} onChange={set} />
    </>
  );
}

function MaskFields({ layer, matte }: MatteFieldsProps<'mask'>) {
  const assets = useShot((s) => s.state.document.assets);
  const frames = assets.find((a) => a.hash === matte.asset)?.frames ?? 0;
  return (
    <>
      <MaskButton layer={layer.id} matte={matte.id} />
      <p className="quiet">
        Its masks are of frames <span className="num">{matte.from}</span> to{' '}
        <span className="num">{matte.from + frames - 1}</span>.
      </p>
    </>
  );
}

/** What only mattes of a kind have. */
const FIELDS: { readonly [K in Kind]: ComponentType<MatteFieldsProps<K>> } = {
  area: AreaFields,
  colour: ColourFields,
  mask: MaskFields,
  passing: PassingFields,
};

export function MatteFields(props: MatteFieldsProps<Kind>) {
  const Fields = FIELDS[props.matte.kind] as ComponentType<MatteFieldsProps<Kind>>;
  return <Fields {...props} />;
}
