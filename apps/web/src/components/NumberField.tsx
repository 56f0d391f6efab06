import { useRef, useState, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import { evaluate } from '../lib/arithmetic';

interface Props {
  readonly label: string;
  readonly value: number;
  readonly unit?: string;
  readonly step?: number;
  readonly min: number;
  readonly max: number;
  readonly decimals?: number;
  readonly disabled?: boolean;
  readonly onChange: (value: number) => void;
  /** Called round a drag, so that it is one step of undo. */
  readonly onDragStart?: () => void;
  readonly onDragEnd?: () => void;
  /** Stands between the label and the field, such as a slider. */
  readonly children?: ReactNode;
}

/**
 * A number that takes typed arithmetic with a unit, arrow keys, the wheel, and dragging its label. Shift makes
 * steps ten times as large, Alt ten times as small.
 */
export function NumberField(props: Props) {
  const { label, value, unit, step = 1, min, max, decimals = 0, disabled, onChange } = props;
  const [text, setText] = useState<string | null>(null);
  const drag = useRef<{ x: number; value: number } | null>(null);
  /** What is typed is given up: leaving the field does not take it. */
  const givenUp = useRef(false);
  const set = (v: number) => {
    const factor = 10 ** Math.max(decimals, 0);
    onChange(Math.min(max, Math.max(min, Math.round(v * factor) / factor)));
  };
  const size = (e: { shiftKey: boolean; altKey: boolean }) => step * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1);
  const commit = () => {
    const typed = text === null || givenUp.current ? null : evaluate(text);
    givenUp.current = false;
    setText(null);
    if (typed !== null) set(typed);
  };
  const onKeyDown = (e: KeyboardEvent<HTMLInputElement>) => {
    if (e.key === 'Enter') {
      e.currentTarget.blur(); // commits, and gives the keys back to the Bench
    } else if (e.key === 'Escape') {
      givenUp.current = true;
      e.currentTarget.blur();
    } else if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
      e.preventDefault();
      setText(null);
      set(value + (e.key === 'ArrowUp' ? 1 : -1) * size(e));
    }
  };
  const onPointerDown = (e: PointerEvent<HTMLSpanElement>) => {
    if (disabled) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    drag.current = { x: e.clientX, value };
    props.onDragStart?.();
  };
  const onPointerMove = (e: PointerEvent<HTMLSpanElement>) => {
    if (drag.current) set(drag.current.value + Math.round((e.clientX - drag.current.x) / 3) * size(e));
  };
  const onPointerUp = () => {
    if (drag.current) props.onDragEnd?.();
    drag.current = null;
  };
  return (
    <label className="flex items-center gap-2">
      <span
        className={`select-none ${props.children ? 'w-[78px] shrink-0 leading-tight' : 'grow'} ${disabled ? 'quiet' : 'cursor-ew-resize'}`}
        title="Drag to change"
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={onPointerUp}
      >
        {label}
      </span>
      {props.children}
      <span className={`input input-xs shrink-0 gap-1 px-1.5 ${props.children ? 'w-[74px]' : 'w-24'}`}>
        <input
          className="num min-w-0 grow text-right"
          aria-label={unit ? `${label}, ${unit}` : label}
          inputMode="decimal"
          disabled={disabled}
          value={text ?? value.toFixed(decimals)}
          onFocus={(e) => e.currentTarget.select()}
          onChange={(e) => setText(e.target.value)}
          onBlur={commit}
          onKeyDown={onKeyDown}
          onWheel={(e) => {
            if (document.activeElement === e.currentTarget) set(value - Math.sign(e.deltaY) * size(e));
          }}
        />
        <span className="quiet w-5 shrink-0">{unit}</span>
      </span>
    </label>
  );
}
