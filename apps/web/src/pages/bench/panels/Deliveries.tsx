import { Trash2 } from 'lucide-react';
import { addDelivery, NEW_DELIVERY, removeDelivery, type Delivery, type FormatSummary } from '@lurn/model';
import { IconButton } from '../../../components/Tip';
import { edit, useShot } from '../../../state/shot';
import { Section } from './Section';

/** What is often asked for, in plain words. */
const PRESETS: readonly (Pick<Delivery, 'name' | 'format'> & { readonly crf: number })[] = [
  { name: 'To watch', format: 'h264-mp4', crf: 18 },
  { name: 'To look at once', format: 'h264-mp4', crf: 26 },
  { name: 'To cut with', format: 'prores-422-hq-mov', crf: 18 },
  { name: 'Lossless', format: 'ffv1-mkv', crf: 18 },
  { name: 'With transparency', format: 'prores-4444-mov', crf: 18 },
  { name: 'For a page', format: 'vp9-webm', crf: 18 },
  { name: 'Picture by picture', format: 'png-zip', crf: 18 },
  { name: 'A quick look', format: 'gif', crf: 18 },
];

/** What leaves the program, one of which is shown below; they are kept with the shot. */
export function Deliveries({
  chosen,
  formats,
  onChoose,
}: {
  readonly chosen: Delivery;
  readonly formats: readonly FormatSummary[];
  readonly onChoose: (id: string) => void;
}) {
  const deliveries = useShot((s) => s.state.document.deliveries);
  const presets = PRESETS.filter((p) => formats.some((f) => f.id === p.format));
  const add = (name: string) => {
    const { crf, ...preset } = presets.find((p) => p.name === name)!;
    const id = crypto.randomUUID();
    edit((s) => addDelivery(s, { ...NEW_DELIVERY, ...preset, id, settings: { crf } }));
    onChoose(id);
  };
  return (
    <Section title="Deliveries">
      <ul className="space-y-0.5" aria-label="Deliveries">
        {deliveries.map((d) => (
          <li key={d.id} className="flex items-center gap-1">
            <button
              type="button"
              aria-pressed={d.id === chosen.id}
              className={`flex min-w-0 grow items-baseline gap-2 rounded px-2 py-1 text-left ${d.id === chosen.id ? 'bg-base-300' : ''}`}
              onClick={() => onChoose(d.id)}
            >
              <span className="truncate">{d.name}</span>
              <span className="quiet ml-auto shrink-0 text-xs">
                {formats.find((f) => f.id === d.format)?.name ?? d.format}
              </span>
            </button>
            {deliveries.length > 1 && (
              <IconButton label={`Take out ${d.name}`} onClick={() => edit((s) => removeDelivery(s, d.id))}>
                <Trash2 size={13} />
              </IconButton>
            )}
          </li>
        ))}
      </ul>
      <select
        className="select select-xs w-full"
        aria-label="Add a delivery"
        value=""
        onChange={(e) => add(e.target.value)}
      >
        <option value="" disabled>
          Add a delivery …
        </option>
        {presets.map((p) => (
          <option key={p.name} value={p.name}>
            {p.name}: {formats.find((f) => f.id === p.format)!.name}
          </option>
        ))}
      </select>
    </Section>
  );
}
