import {
  DATA_CHOICES,
  matricesOf,
  type DataChoices,
  type DataExport,
  type DataKind,
} from '@lurn/core/formats';
import { NumberField } from '../../../../components/NumberField';

const LABELS = {
  origin: [
    'Counted from',
    { 'top-left': 'the top left', 'bottom-left': 'the bottom left', centre: 'the middle' },
  ],
  y: ['y grows', { down: 'downwards', up: 'upwards' }],
  unit: ['Places in', { px: 'pixels', share: 'shares of the picture' }],
  numbers: [
    'Motion as',
    { matrix: 'matrices', ratio: 'position, rotation, scale', percent: 'the same, scale in %' },
  ],
  time: ['Time in', { seconds: 'seconds', timecode: 'time code' }],
} as const;
/** Counted upwards, places are counted from the bottom, downwards from the top: else all of them would be negative. */
function withOrigin(choices: DataChoices, more: Partial<DataChoices>): Partial<DataChoices> {
  const far = more.y === 'up' ? 'top-left' : 'bottom-left';
  if (!more.y || choices.origin !== far) return more;
  return { ...more, origin: more.y === 'up' ? 'bottom-left' : 'top-left' };
}

/** What the format leaves open. */
export function DataChoicesFields({
  kind,
  format,
  choices,
  onChange,
}: {
  readonly kind: DataKind;
  readonly format: DataExport;
  readonly choices: DataChoices;
  readonly onChange: (more: Partial<DataChoices>) => void;
}) {
  const open = (['numbers', 'origin', 'y', 'unit', 'time'] as const).filter(
    (name) => format.heeds.includes(name) && (name !== 'numbers' || matricesOf(kind).length > 0),
  );
  return (
    <>
      {open.map((name) => (
        <label key={name} className="flex items-center justify-between gap-2">
          <span className="quiet">{LABELS[name][0]}</span>
          <select
            className="select select-xs w-44"
            value={choices[name]}
            onChange={(e) => onChange(withOrigin(choices, { [name]: e.target.value }))}
          >
            {DATA_CHOICES[name].map((value) => (
              <option key={value} value={value}>
                {(LABELS[name][1] as Record<string, string>)[value]}
              </option>
            ))}
          </select>
        </label>
      ))}
      {format.heeds.includes('first') && (
        <NumberField
          label="First frame is"
          value={choices.first}
          min={0}
          max={1_000_000}
          onChange={(first) => onChange({ first })}
        />
      )}
    </>
  );
}
