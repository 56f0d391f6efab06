import { Type } from 'lucide-react';
import { useEffect, useState } from 'react';
import { CHOICES, LIMITS, type TextLayer } from '@lurn/model';
import { Segments } from '../../../../../components/Segments';
import { Slider } from '../../../../../components/Slider';
import { changeText } from '../../../../../state/layer-text';
import { Choice } from '../../Choice';
import { Hint } from '../../Section';
import { ColourField } from '../fields';
import { EdgeFields, FillQuad } from '../placed';
import { putText } from '../../../../../state/layer-text';
import type { LayerView } from './layer-view';

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

export const TEXT_VIEW: LayerView<TextLayer> = {
  icon: Type,
  Fields: TextFields,
  begin: {
    text: 'Text',
    title: 'A text in a font that ships with the program',
    by: () => void putText(),
  },
};
