import { useEffect, useRef } from 'react';
import { LIMITS } from '@lurn/model';
import { setBench, useBenchParts } from '../../../state/bench';
import { editNote, keepNote, moveNote } from '../../../state/notes';
import { useShot } from '../../../state/shot';
import { dragHandle, LABEL, RULER, type X } from './axis';

/** A small page at the foot of the ruler for each note, and a line as long as what it is about. */
export function NoteMarks({ x, clamp }: { readonly x: X; readonly clamp: (clientX: number) => number }) {
  const notes = useShot((s) => s.state.document.notes);
  const [left, right] = x.domain();
  return notes
    .filter((n) => n.to >= left && n.from <= right)
    .map((note) => {
      const { id, from, to, text } = note;
      return (
        <g
          key={id}
          transform={`translate(${x(from)} ${RULER - 14})`}
          className="cursor-ew-resize"
          data-note={id}
          onDoubleClick={() => editNote(note)}
          {...dragHandle((clientX) => moveNote(note, clamp(clientX)))}
        >
          <title>{`${framesOf(note)}: ${text}\nDrag to move it, press twice to change it`}</title>
          {to > from && (
            <path d={`M0 12h${x(to) - x(from)}`} stroke="var(--color-base-content)" strokeWidth={2} />
          )}
          <path
            d="M0 13V0h6l3 3v6H3Z"
            fill="var(--color-base-content)"
            stroke="var(--color-base-200)"
            strokeWidth={0.75}
          />
          <path d="M2 4h4M2 6.5h4" stroke="var(--color-base-200)" />
        </g>
      );
    });
}

export const framesOf = ({ from, to }: { readonly from: number; readonly to: number }) =>
  from === to ? `Frame ${from}` : `Frames ${from} to ${to}`;

const WIDE = 260;

/** Where a note is written: under the ruler, on its frame. Enter keeps it, Escape leaves it as it was. */
export function NoteEntry({ x, width }: { readonly x: X; readonly width: number }) {
  const { noting } = useBenchParts('noting');
  return noting && <Entry key={`${noting.id} ${noting.from}`} {...{ x, width, noting }} />;
}

function Entry({
  x,
  width,
  noting,
}: {
  readonly x: X;
  readonly width: number;
  readonly noting: NonNullable<ReturnType<typeof useBenchParts<'noting'>>['noting']>;
}) {
  const field = useRef<HTMLInputElement>(null);
  const given = useRef(false);
  useEffect(() => field.current?.select(), []);
  const at = Math.max(0, Math.min(width - WIDE, x(noting.from)));
  return (
    <div
      className="rule absolute z-20 flex items-center gap-2 border bg-base-200 px-2 py-1"
      style={{ top: RULER + 1, left: LABEL + at, width: WIDE }}
      onPointerDown={(e) => e.stopPropagation()}
    >
      <input
        ref={field}
        autoFocus
        className="input input-xs min-w-0 flex-1"
        aria-label={`Note on ${framesOf(noting).toLowerCase()}`}
        placeholder={`Note on ${framesOf(noting).toLowerCase()}`}
        maxLength={LIMITS.note}
        defaultValue={noting.text}
        onBlur={(e) => !given.current && keepNote(e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') e.currentTarget.blur();
          if (e.key !== 'Escape') return;
          given.current = true;
          setBench({ noting: null });
        }}
      />
    </div>
  );
}
