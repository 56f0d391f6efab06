import { Eye, Pipette } from 'lucide-react';
import { useEffect, useState } from 'react';
import {
  CHOICES,
  LIMITS,
  NEW_RANGE,
  surfaceById,
  type ClipLayer,
  type ConcealLayer,
  type GraphicLayer,
  type Layer,
  type LayerOutline,
  type PaintLayer,
  type PickedRange,
  type TextLayer,
  type TintLayer,
} from '@lurn/model';
import { NumberField } from '../../../components/NumberField';
import { Segments } from '../../../components/Segments';
import { Slider } from '../../../components/Slider';
import { plural } from '../../../lib/format';
import { bench, setBench, useBenchParts, type Brush } from '../../../state/bench';
import { change, changeText, fillQuad } from '../../../state/layers';
import { useRasterFaults } from '../../../state/rasters';
import { beginGesture, endGesture, useShot } from '../../../state/shot';
import { Choice } from './Choice';
import { Fold, Hint } from './Section';

const drag = { onDragStart: beginGesture, onDragEnd: endGesture };

/** What only layers of a kind have. */
export function LayerKindFields({ layer }: { readonly layer: Layer }) {
  switch (layer.kind) {
    case 'graphic':
      return <GraphicFields layer={layer} />;
    case 'clip':
      return <ClipFields layer={layer} />;
    case 'text':
      return <TextFields layer={layer} />;
    case 'shape':
      return (
        <>
          <ColourField
            label="Colour"
            value={layer.colour}
            onChange={(colour) => change(layer.id, { colour })}
          />
          <OutlineFields outline={layer.outline} onChange={(outline) => change(layer.id, { outline })} />
        </>
      );
    case 'paint':
      return <PaintFields layer={layer} />;
    case 'conceal':
      return <ConcealFields layer={layer} />;
    case 'tint':
      return <TintFields layer={layer} />;
  }
}

export function ColourField({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (colour: string) => void;
}) {
  return (
    <label className="flex items-center gap-2">
      <span className="grow">{label}</span>
      <input
        type="color"
        className="h-6 w-10 cursor-pointer"
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}

/** How a drawn edge runs, and whether what is changed of it is keyed. */
export function OutlineFields({
  outline,
  onChange,
}: {
  readonly outline: LayerOutline;
  readonly onChange: (outline: LayerOutline) => void;
}) {
  const { keying } = useBenchParts('keying');
  return (
    <>
      <NumberField
        label="Soft edge"
        unit="px"
        value={outline.soften}
        min={LIMITS.fade[0]}
        max={LIMITS.fade[1]}
        decimals={1}
        {...drag}
        onChange={(soften) => onChange({ ...outline, soften })}
      />
      <NumberField
        label="Larger by"
        unit="px"
        value={outline.grow}
        min={LIMITS.grow[0]}
        max={LIMITS.grow[1]}
        decimals={1}
        {...drag}
        onChange={(grow) => onChange({ ...outline, grow })}
      />
      <label
        className="flex cursor-pointer items-center gap-2"
        title="What is dragged of its shape is a key on this frame; between keys it goes in a line"
      >
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={keying || outline.keys.length > 1}
          disabled={outline.keys.length > 1}
          onChange={(e) => setBench({ keying: e.target.checked })}
        />
        {outline.keys.length > 1
          ? `Its shape is keyed on ${plural(outline.keys.length, 'frame')}`
          : 'Key its shape'}
      </label>
    </>
  );
}

function EdgeFields({ layer }: { readonly layer: GraphicLayer | TextLayer }) {
  const { id, edge } = layer;
  const field = (part: keyof typeof edge, label: string, range: readonly [number, number]) => (
    <NumberField
      label={label}
      unit="px"
      value={edge[part]}
      min={range[0]}
      max={range[1]}
      decimals={1}
      {...drag}
      onChange={(v) => change(id, { edge: { ...edge, [part]: v } })}
    />
  );
  return (
    <Fold title="Its edge">
      {field('grow', 'Larger by', LIMITS.grow)}
      {field('soften', 'Soft edge', LIMITS.fade)}
      {field('blur', 'Blur', LIMITS.fade)}
    </Fold>
  );
}

/** Why what it shows cannot be had, if so. */
function Fault({ of }: { readonly of: string }) {
  const faults = useRasterFaults((s) => s.faults);
  const key = Object.keys(faults).find((k) => k.includes(of));
  return key ? <p className="text-xs text-error">▲ {faults[key]}</p> : null;
}

function GraphicFields({ layer }: { readonly layer: GraphicLayer }) {
  const asset = useShot((s) => s.state.document.assets.find((a) => a.hash === layer.asset));
  return (
    <>
      <p className="quiet num truncate text-xs" title={asset?.name}>
        {asset?.name}, {asset?.width} × {asset?.height} px
      </p>
      <Fault of={layer.asset} />
      <FillQuad layer={layer} />
      <EdgeFields layer={layer} />
    </>
  );
}

function ClipFields({ layer }: { readonly layer: ClipLayer }) {
  const { id, play, first } = layer;
  const asset = useShot((s) => s.state.document.assets.find((a) => a.hash === layer.asset))!;
  return (
    <>
      <p className="quiet num truncate text-xs" title={asset.name}>
        {asset.name}, {asset.width} × {asset.height} px, {plural(asset.frames, 'frame')}
      </p>
      <Fault of={layer.asset} />
      <Segments
        label="Plays"
        value={play}
        options={{ step: 'In step', loop: 'Round', frozen: 'Stands' }}
        onChange={(v) => change(id, { play: v })}
      />
      <NumberField
        label={play === 'frozen' ? 'Its frame' : `Its frame on frame ${layer.frame}`}
        value={first}
        min={0}
        max={asset.frames - 1}
        decimals={0}
        {...drag}
        onChange={(v) => change(id, { first: Math.round(v) })}
      />
      <FillQuad layer={layer} />
    </>
  );
}

function FillQuad({ layer }: { readonly layer: GraphicLayer | ClipLayer | TextLayer }) {
  const surface = useShot((s) => surfaceById(s.state.document, layer.rides.id));
  if (!surface) return null;
  return (
    <button type="button" className="btn btn-xs" onClick={() => fillQuad(layer.id)}>
      Fill the quad of {surface.name}
    </button>
  );
}

function TextFields({ layer }: { readonly layer: TextLayer }) {
  const { id, style } = layer;
  const set = (part: Partial<TextLayer['style']>) => void changeText(id, { style: { ...style, ...part } });
  const weights = Object.fromEntries(CHOICES.weight.map((w) => [String(w), WEIGHTS[w]]));
  return (
    <>
      <Words layer={layer} />
      <Lacking layer={layer} />
      <Choice
        label="Font"
        value={style.font}
        options={
          Object.fromEntries(CHOICES.font.map((f) => [f, f])) as Record<TextLayer['style']['font'], string>
        }
        onChange={(font) => set({ font })}
      />
      <Choice
        label="Weight"
        value={String(style.weight)}
        options={weights}
        onChange={(w) => set({ weight: Number(w) as TextLayer['style']['weight'] })}
      />
      <Segments
        label="Aligned"
        value={style.align}
        options={{ left: 'Left', middle: 'Middle', right: 'Right' }}
        onChange={(align) => set({ align })}
      />
      <ColourField label="Colour" value={style.colour} onChange={(colour) => set({ colour })} />
      <Slider
        label="Outline"
        unit="%"
        value={style.outline * 100}
        min={0}
        max={20}
        most={50}
        onChange={(v) => set({ outline: v / 100 })}
      />
      {style.outline > 0 && (
        <ColourField
          label="Colour of the outline"
          value={style.outlineColour}
          onChange={(outlineColour) => set({ outlineColour })}
        />
      )}
      <FillQuad layer={layer} />
      <EdgeFields layer={layer} />
    </>
  );
}

const WEIGHTS: Readonly<Record<TextLayer['style']['weight'], string>> = {
  400: 'regular',
  500: 'medium',
  600: 'semi-bold',
  700: 'bold',
};

/** The words, taken over a moment after the last key, and when they are left. */
function Words({ layer }: { readonly layer: TextLayer }) {
  const { id, text } = layer;
  /** What has been typed; null while nobody types: what the shot has is shown then. */
  const [typed, setTyped] = useState<string | null>(null);
  useEffect(() => {
    if (typed === null || typed === text) return;
    const timer = setTimeout(() => void changeText(id, { text: typed }), 300);
    return () => clearTimeout(timer);
  }, [typed, id, text]);
  return (
    <textarea
      className="textarea textarea-sm w-full"
      aria-label="Text"
      rows={2}
      maxLength={LIMITS.text}
      value={typed ?? text}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={() => {
        if (typed !== null && typed !== text) void changeText(id, { text: typed });
        setTyped(null);
      }}
    />
  );
}

/** Names the letters that the font does not have, and says so of an empty text. */
function Lacking({ layer }: { readonly layer: TextLayer }) {
  const { text, style } = layer;
  const [lacking, setLacking] = useState('');
  useEffect(() => {
    let current = true;
    void fetch('/api/assets/text', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({
        ...{ key: `text ${JSON.stringify([text, style])}`, text, style },
        ...{ edge: { grow: 0, soften: 0, blur: 0 }, side: 0 },
      }),
    })
      .then((r) => current && setLacking(decodeURIComponent(r.headers.get('X-Letters-Missing') ?? '')))
      .catch(() => undefined);
    return () => {
      current = false;
    };
  }, [text, style]);
  if (text.trim() === '') return <Hint>An empty text shows nothing.</Hint>;
  if (!lacking) return null;
  return (
    <p className="text-xs text-warning">
      ▲ {style.font} lacks {[...lacking].join(' ')}. Another font may have them.
    </p>
  );
}

function PaintFields({ layer }: { readonly layer: PaintLayer }) {
  const { tool, brush, frame, cloneFrom, clonePlate } = useBenchParts(
    ...(['tool', 'brush', 'frame', 'cloneFrom', 'clonePlate'] as const),
  );
  const set = (part: Partial<Brush>) => setBench({ brush: { ...brush, ...part }, tool: { id: 'paint' } });
  const painting = tool.id === 'paint';
  return (
    <>
      <button
        type="button"
        className={`btn btn-sm w-full ${painting ? 'btn-primary' : ''}`}
        aria-pressed={painting}
        onClick={() => setBench({ tool: { id: painting ? 'mark' : 'paint' } })}
      >
        {painting ? 'Painting: lay the brush down' : 'Take the brush up'}
      </button>
      <Segments
        label="Tool"
        value={brush.tool}
        options={{ brush: 'Brush', clone: 'Clone', eraser: 'Eraser' }}
        onChange={(t) => set({ tool: t })}
      />
      {brush.tool === 'clone' && <CloneChoice />}
      {brush.tool === 'clone' && clonePlate === null && (
        <Hint>
          {cloneFrom
            ? `Taken from frame ${cloneFrom.frame}. Alt and a press on any frame: from elsewhere.`
            : 'Hold Alt and press on what is to be painted with, on this frame or another.'}
        </Hint>
      )}
      {brush.tool === 'brush' && (
        <>
          <ColourField label="Colour" value={brush.colour} onChange={(colour) => set({ colour })} />
          <PickButton layer={layer.id} matte="brush" />
        </>
      )}
      <Slider
        label="Size"
        unit="px"
        value={brush.size}
        min={1}
        max={200}
        most={2000}
        fine
        onChange={(size) => set({ size })}
      />
      <Slider
        label="Hardness"
        unit="%"
        value={brush.hardness * 100}
        min={0}
        max={100}
        onChange={(v) => set({ hardness: v / 100 })}
      />
      <Slider
        label="Flow"
        unit="%"
        value={brush.flow * 100}
        min={0}
        max={100}
        onChange={(v) => set({ flow: v / 100 })}
      />
      <Choice
        label="Seen"
        value={brush.on}
        options={{ all: 'on all frames', onwards: `from frame ${frame} on`, one: `on frame ${frame} alone` }}
        onChange={(on) => set({ on })}
      />
      <p className="quiet num text-xs">{plural(layer.strokes.length, 'stroke')}</p>
    </>
  );
}

/** What cloned strokes show: the picture, or a graphic such as a clean plate. */
function CloneChoice() {
  const { clonePlate } = useBenchParts('clonePlate');
  const layers = useShot((s) => s.state.document.layers);
  const graphics = layers.filter((l) => l.kind === 'graphic');
  if (graphics.length === 0) return null;
  return (
    <Choice
      label="Taken from"
      value={graphics.some((l) => l.id === clonePlate) ? clonePlate! : ''}
      options={Object.fromEntries([['', 'the picture'], ...graphics.map((l) => [l.id, l.name] as const)])}
      onChange={(id) => setBench({ clonePlate: id || null, tool: { id: 'paint' } })}
    />
  );
}

function ConcealFields({ layer }: { readonly layer: ConcealLayer }) {
  const { id, how, size, colour, outline, margin } = layer;
  return (
    <>
      <Segments
        label="How"
        value={how}
        options={{ blur: 'Blur', squares: 'Squares', colour: 'Colour' }}
        onChange={(v) => change(id, { how: v })}
      />
      {how === 'colour' ? (
        <ColourField label="Colour" value={colour} onChange={(c) => change(id, { colour: c })} />
      ) : (
        <Slider
          label={how === 'blur' ? 'Radius' : 'Side'}
          unit="px"
          value={size}
          min={LIMITS.conceal[0]}
          max={60}
          most={LIMITS.conceal[1]}
          onChange={(v) => change(id, { size: v })}
        />
      )}
      <OutlineFields outline={outline} onChange={(o) => change(id, { outline: o })} />
      <NumberField
        label="More where less sure"
        unit="px"
        value={margin}
        min={LIMITS.fade[0]}
        max={LIMITS.fade[1]}
        decimals={1}
        {...drag}
        onChange={(v) => change(id, { margin: v })}
      />
    </>
  );
}

function TintFields({ layer }: { readonly layer: TintLayer }) {
  const { id, hue, saturation, lightness, exposure, colours, outline } = layer;
  return (
    <>
      <Slider
        label="Hue"
        unit="°"
        value={hue}
        min={-180}
        max={180}
        onChange={(v) => change(id, { hue: v })}
      />
      <Slider
        label="Saturation"
        unit="%"
        value={saturation * 100}
        min={0}
        max={200}
        most={400}
        onChange={(v) => change(id, { saturation: v / 100 })}
      />
      <Slider
        label="Lightness"
        unit="%"
        value={lightness * 100}
        min={-100}
        max={100}
        onChange={(v) => change(id, { lightness: v / 100 })}
      />
      <Slider
        label="Exposure"
        unit="EV"
        value={exposure}
        min={-3}
        max={3}
        step={0.1}
        decimals={1}
        onChange={(v) => change(id, { exposure: v })}
      />
      <label className="flex cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={colours !== null}
          onChange={(e) =>
            change(id, {
              colours: e.target.checked ? NEW_RANGE : null,
            })
          }
        />
        Some colours only
      </label>
      {colours && (
        <RangeFields layer={id} matte={null} range={colours} onChange={(c) => change(id, { colours: c })} />
      )}
      {outline && <OutlineFields outline={outline} onChange={(o) => change(id, { outline: o })} />}
    </>
  );
}

/** Takes the next colour that is pressed on in the picture. */
function PickButton({ layer, matte }: { readonly layer: string; readonly matte: string | null }) {
  const { tool } = useBenchParts('tool');
  const picking = tool.id === 'pick' && tool.matte === matte;
  return (
    <button
      type="button"
      className={`btn btn-xs ${picking ? 'btn-primary' : ''}`}
      aria-pressed={picking}
      title="Press on the colour in the picture"
      onClick={() => setBench({ tool: picking ? { id: 'mark' } : { id: 'pick', layer, matte } })}
    >
      <Pipette size={12} aria-hidden="true" />
      Pick it
    </button>
  );
}

/** Shows where a matte or a tint takes hold. */
export function MaskButton({ layer, matte }: { readonly layer: string; readonly matte: string | null }) {
  const { masked } = useBenchParts('masked');
  const shown = masked?.layer === layer && masked.matte === matte;
  // Nothing is left masked when its button goes.
  useEffect(
    () => () => {
      const now = bench().masked;
      if (now?.layer === layer && now.matte === matte) setBench({ masked: null });
    },
    [layer, matte],
  );
  return (
    <button
      type="button"
      className={`btn btn-xs ${shown ? 'btn-primary' : ''}`}
      aria-pressed={shown}
      title="Shows in green where it takes hold"
      onClick={() => setBench({ masked: shown ? null : { layer, matte } })}
    >
      <Eye size={12} aria-hidden="true" />
      Show where
    </button>
  );
}

/** A range of colours, near one that is picked. @param matte  whose range it is; null for the layer's own */
export function RangeFields({
  layer,
  matte,
  range,
  onChange,
}: {
  readonly layer: string;
  readonly matte: string | null;
  readonly range: PickedRange;
  readonly onChange: (range: PickedRange) => void;
}) {
  const share = (part: 'reach' | 'soften', label: string) => (
    <Slider
      label={label}
      unit="%"
      value={range[part] * 100}
      min={0}
      max={100}
      most={200}
      onChange={(v) => onChange({ ...range, [part]: v / 100 })}
    />
  );
  return (
    <>
      <ColourField label="Near" value={range.colour} onChange={(colour) => onChange({ ...range, colour })} />
      <div className="grid grid-cols-2 gap-1.5">
        <PickButton layer={layer} matte={matte} />
        <MaskButton layer={layer} matte={matte} />
      </div>
      {share('reach', 'Reach')}
      {share('soften', 'Soft')}
      <label className="flex cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={range.brightness}
          onChange={(e) => onChange({ ...range, brightness: e.target.checked })}
        />
        Brightness alone
      </label>
    </>
  );
}
