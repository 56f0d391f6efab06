import { useState } from 'react';
import { toast } from 'sonner';
import { Check } from '../../../components/Check';
import { NumberField } from '../../../components/NumberField';
import { useKeyTip } from '../../../state/keymap';
import { setBench, useBenchParts, type BenchState } from '../../../state/bench';
import { takeSuggestions, type SpotQuality } from '../../../state/spot-quality';
import { Hint, Section } from './Section';

/** Where spots would hold: suggestions, and a map of the whole picture. */
export function Suggestions({ quality }: { readonly quality: SpotQuality }) {
  const tip = useKeyTip();
  const { suggestions, tool, rectangle, showMap, frame } = useBenchParts(
    'suggestions',
    'tool',
    'rectangle',
    'showMap',
    'frame',
  );
  const [count, setCount] = useState(4);
  const [asked, setAsked] = useState(0);
  const [busy, setBusy] = useState(false);
  const suggest = (n: number) => {
    setBusy(true);
    setAsked(n);
    quality
      .suggest(n, rectangle)
      .catch((error: Error) => toast.error(error.message))
      .finally(() => setBusy(false));
  };
  return (
    <Section title="Suggest spots">
      <NumberField label="How many" value={count} min={1} max={40} onChange={setCount} />
      <div className="grid grid-cols-2 gap-1.5">
        <button
          type="button"
          className="btn btn-sm"
          disabled={busy}
          title={tip('The best features, spread out', 'suggest')}
          onClick={() => suggest(count)}
        >
          Suggest {count}
        </button>
        <button
          type="button"
          className="btn btn-sm"
          disabled={busy}
          title="Two good features far apart"
          onClick={() => suggest(2)}
        >
          A pair
        </button>
      </div>
      <Check
        checked={tool.id === 'rectangle' || rectangle !== null}
        onChange={(on) => setBench({ tool: { id: on ? 'rectangle' : 'mark' }, rectangle: null })}
      >
        {rectangle
          ? 'Only within the rectangle'
          : tool.id === 'rectangle'
            ? 'Draw a rectangle on the picture'
            : 'Only within a rectangle'}
      </Check>
      <Check
        title={tip('Where patches of this size would hold', 'map')}
        checked={showMap}
        onChange={(on) => setBench({ showMap: on })}
      >
        Grip map over the picture
      </Check>
      {suggestions.length > 0 && (
        <>
          {suggestions[0].frame !== frame && (
            <p className="quiet text-xs">
              Looked for on frame <span className="num">{suggestions[0].frame}</span>, and placed there.
            </p>
          )}
          <ul className="text-xs" aria-label="Suggestions">
            {suggestions.map((s, i) => (
              <li key={`${s.x} ${s.y}`} className="flex items-center gap-2">
                <span className="num w-4 text-right">{i + 1}</span>
                <span className="num grow">
                  ± {Math.max(0.01, s.grip.error).toFixed(2)} px
                  {s.life !== undefined && (
                    <span className="quiet" title="Followed on so many frames of the range already">
                      , {s.life} of {s.of} frames
                    </span>
                  )}
                </span>
                <button type="button" className="btn btn-xs" onClick={() => takeSuggestions([s])}>
                  Place
                </button>
              </li>
            ))}
          </ul>
          <Kept suggestions={suggestions} asked={asked} />
          <div className="flex gap-1.5">
            <button
              type="button"
              className="btn btn-primary btn-sm grow"
              onClick={() => takeSuggestions(suggestions)}
            >
              Place {suggestions.length === 1 ? 'it' : `all ${suggestions.length}`}
            </button>
            <button type="button" className="btn btn-sm" onClick={() => setBench({ suggestions: [] })}>
              Drop
            </button>
          </div>
        </>
      )}
    </Section>
  );
}

/** A feature that was seen on fewer of the range's frames than this share does not hold to its end. */
const TO_THE_END = 0.95;

/** Where fewer were found than were asked for, or some end before the range does, it is said. */
function Kept({ suggestions, asked }: Pick<BenchState, 'suggestions'> & { readonly asked: number }) {
  const lasting = suggestions.filter(({ life, of }) => !life || !of || life >= TO_THE_END * of).length;
  if (suggestions.length < asked)
    return (
      <Hint>
        {suggestions.length} of {asked}: nothing else holds.
      </Hint>
    );
  if (lasting === suggestions.length) return null;
  return (
    <Hint>
      {lasting} of {suggestions.length} are seen throughout the range.
    </Hint>
  );
}
