import { useMemo } from 'react';
import { handOver, type DataChoices, type DataExport, type MovingData } from '@lurn/core/formats';
import { messageOf } from '../../../../lib/api';

/** Lines that are shown of what would be written, and letters of each. */
const [LINES, LETTERS] = [6, 400];

/** The first lines of what would be written. */
export function DataPreview({
  data,
  format,
  choices,
}: {
  readonly data: MovingData;
  readonly format: DataExport;
  readonly choices: DataChoices;
}) {
  const text = useMemo(() => {
    // The first frames tell how it looks.
    const few = {
      ...data,
      things: data.things.slice(0, 1).map((t) => ({ ...t, frames: t.frames.slice(0, 4) })),
    };
    try {
      const [file] = handOver(few, format, choices);
      const lines = (file.content as string).split('\n').slice(0, LINES);
      return lines.map((l) => (l.length > LETTERS ? `${l.slice(0, LETTERS)} …` : l)).join('\n');
    } catch (error) {
      return messageOf(error);
    }
  }, [data, format, choices]);
  return (
    <pre
      className="num rule max-h-28 overflow-auto border p-1.5 text-[11px] leading-snug"
      aria-label="First lines"
      tabIndex={0}
    >
      {text}
    </pre>
  );
}
