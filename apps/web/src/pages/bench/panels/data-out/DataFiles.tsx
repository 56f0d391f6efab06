import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import {
  withMeshes,
  withWarps,
  type DataChoices,
  type DataExport,
  type MovingData,
} from '@lurn/core/formats';
import type { Plan } from '@lurn/core/plan';
import { messageOf } from '../../../../lib/api';
import { keepFile } from '../../../../lib/keep-file';
import { asTable, asValuesOverTime } from '../../../../state/data-out';
import { openWriter, type DataWriter } from '../../../../workers/open-writer';
import { Hint } from '../Section';

/** Writes data into a file, or copies it. */
export function DataFiles({
  data,
  format,
  choices,
  name,
  plan,
}: {
  readonly data: MovingData;
  readonly format: DataExport;
  readonly choices: DataChoices;
  /** Of the file, without its ending. */
  readonly name: string;
  readonly plan: Plan | null;
}) {
  const [done, setDone] = useState<number | null>(null);
  const writer = useRef<DataWriter | null>(null);
  const stop = () => {
    writer.current?.stop();
    writer.current = null;
    setDone(null);
  };
  useEffect(() => () => writer.current?.stop(), []);
  const total = (format.many?.aFrame ?? 1) * data.things.reduce((n, t) => n + t.frames.length, 0);
  const save = async () => {
    const own = (writer.current = openWriter());
    setDone(0);
    try {
      const bent = format.maps ? withWarps : format.meshes ? withMeshes : null;
      const whole = bent && plan && data.kind === 'motion' ? bent(data, plan) : data;
      const told = (n: number) => writer.current === own && setDone(n);
      const blob = await own.write(whole, format.id, choices, told);
      if (writer.current === own) keepFile(`${name}.${format.extension}`, blob);
    } catch (error) {
      toast.error(messageOf(error), { id: 'data' });
    } finally {
      if (writer.current === own) stop();
    }
  };
  const copy = (text: string, what: string) =>
    navigator.clipboard
      .writeText(text)
      .then(() => toast.success(`${what}, with tabs between.`))
      .catch(() => toast.error('The browser does not let the page copy. Save the file instead.'));
  if (done !== null)
    return (
      <div className="flex items-center gap-2" role="status">
        <progress className="progress flex-1" value={done} max={total} aria-label="Writing data" />
        <span className="num text-xs">{format.many ? `${done} of ${total}` : ''}</span>
        <button type="button" className="btn btn-xs" onClick={stop}>
          Stop
        </button>
      </div>
    );
  return (
    <>
      <button type="button" className="btn btn-sm w-full" onClick={() => void save()}>
        Save {format.name}
      </button>
      <div className="grid grid-cols-2 gap-1.5">
        <button
          type="button"
          className="btn btn-sm"
          title="A row a frame, to paste into a spreadsheet"
          onClick={() => void copy(asTable(data, choices), 'Copied as a table')}
        >
          Copy as a table
        </button>
        <button
          type="button"
          className="btn btn-sm"
          title="A row for each number, its values over time"
          onClick={() => void copy(asValuesOverTime(data, choices), 'Copied, a row for each number')}
        >
          Copy over time
        </button>
      </div>
      {format.many && <Hint>{format.many.about}</Hint>}
    </>
  );
}
