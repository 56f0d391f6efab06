import { Brush as BrushIcon } from 'lucide-react';
import type { PaintLayer } from '@lurn/model';
import { Segments } from '../../../../../components/Segments';
import { Slider } from '../../../../../components/Slider';
import { plural } from '../../../../../lib/format';
import { setBench, useBenchParts, type Brush } from '../../../../../state/bench';
import { useShot } from '../../../../../state/shot';
import { Choice } from '../../Choice';
import { Hint } from '../../Section';
import { ColourField } from '../fields';
import { PickButton } from '../RangeFields';
import { plates } from '../../../../../state/layers';
import { putPaint } from '../../../../../state/making-layers';
import type { LayerView } from './layer-view';

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
  const graphics = plates(layers);
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

export const PAINT_VIEW: LayerView<PaintLayer> = {
  icon: BrushIcon,
  Fields: PaintFields,
  begin: {
    text: 'Paint',
    title: 'Brush, clone and eraser',
    by() {
      putPaint();
      setBench({ tool: { id: 'paint' } });
    },
  },
};
