import { beginGesture, endGesture } from '../state/shot';
import { NumberField } from './NumberField';

interface Props {
  readonly label: string;
  readonly value: number;
  readonly unit: string;
  readonly min: number;
  /** The end of the slider; the field takes values up to `most`. */
  readonly max: number;
  readonly most?: number;
  readonly step?: number;
  readonly decimals?: number;
  readonly disabled?: boolean;
  /** Slides finely near the low end: the value goes with the square of the way. */
  readonly fine?: boolean;
  readonly onChange: (value: number) => void;
}

const TRACK = 200;

/** A number that is felt for, with its field. A drag is one step of undo, and keys step it. */
export function Slider(props: Props) {
  const {
    label,
    value,
    unit,
    min,
    max,
    most = max,
    step = 1,
    decimals = 0,
    disabled,
    fine,
    onChange,
  } = props;
  const share = Math.min(1, Math.max(0, (value - min) / (max - min)));
  const at = Math.round(TRACK * (fine ? Math.sqrt(share) : share));
  const fromSlider = (v: number) => {
    const t = v / TRACK;
    const wished = min + (max - min) * (fine ? t * t : t);
    const grain = 10 ** decimals;
    return Math.round(Math.round(wished / step) * step * grain) / grain;
  };
  return (
    <NumberField
      label={label}
      value={value}
      unit={unit}
      min={min}
      max={most}
      step={step}
      decimals={decimals}
      disabled={disabled}
      onDragStart={beginGesture}
      onDragEnd={endGesture}
      onChange={onChange}
    >
      <input
        type="range"
        className="slide min-w-0 grow"
        aria-label={`${label}, slider`}
        min={0}
        max={TRACK}
        value={at}
        disabled={disabled}
        onPointerDown={beginGesture}
        onPointerUp={endGesture}
        onPointerCancel={endGesture}
        onChange={(e) => onChange(fromSlider(Number(e.target.value)))}
      />
    </NumberField>
  );
}
