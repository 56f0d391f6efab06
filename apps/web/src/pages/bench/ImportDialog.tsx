import { useMemo, useRef, useState, useEffect } from 'react';
import { toast } from 'sonner';
import {
  countSamples,
  guessMapping,
  readSampleTable,
  samplesFromTable,
  trackEnd,
  type ColumnMapping,
  type ImportedSpot,
  type SampleTable,
} from '@lurn/core';
import { setBench, useBenchParts } from '../../state/bench';
import { takeImported } from '../../state/repairs';
import { useShot } from '../../state/shot';

const PREVIEWED = 6;
const FIELDS: readonly {
  readonly key: keyof ColumnMapping;
  readonly label: string;
  readonly needed: boolean;
}[] = [
  { key: 'frame', label: 'Frame', needed: true },
  { key: 'x', label: 'Across, px', needed: true },
  { key: 'y', label: 'Down, px', needed: true },
  { key: 'spot', label: 'Spot', needed: false },
  { key: 'confidence', label: 'Confidence', needed: false },
  { key: 'state', label: 'State', needed: false },
];

/** Brings samples in from a CSV or JSON file: which column is what, and what would come of it, before it is done. */
export function ImportDialog() {
  const dialog = useRef<HTMLDialogElement>(null);
  const { info } = useBenchParts('info');
  const spots = useShot((s) => s.state.document.spots);
  const [file, setFile] = useState<{ name: string; table: SampleTable } | null>(null);
  const [mapping, setMapping] = useState<ColumnMapping | null>(null);
  const [firstFrame, setFirstFrame] = useState(0);
  const [replace, setReplace] = useState(false);
  const [failure, setFailure] = useState<string | null>(null);
  useEffect(() => dialog.current?.showModal(), []);
  const result = useMemo((): { spots: ImportedSpot[] } | { fault: string } | null => {
    if (!file || !mapping) return null;
    try {
      const name = file.name.replace(/\.[^.]*$/, '').slice(0, 50) || 'imported';
      return { spots: samplesFromTable(file.table, mapping, info, firstFrame, name) };
    } catch (error) {
      return { fault: (error as Error).message };
    }
  }, [file, mapping, info, firstFrame]);
  const choose = async (chosen: File | undefined) => {
    if (!chosen) return;
    setFile(null);
    setFailure(null);
    if (chosen.size > 50e6) {
      setFailure(
        `${chosen.name} has ${Math.round(chosen.size / 1e6)} MB; files of samples are far smaller. Is it the right one?`,
      );
      return;
    }
    try {
      const table = readSampleTable(await chosen.text());
      setFile({ name: chosen.name, table });
      setMapping(guessMapping(table));
    } catch (error) {
      setFailure((error as Error).message);
    }
  };
  const ready = result && 'spots' in result ? result.spots : null;
  const twins = ready?.filter((r) => spots.some((s) => s.name === r.name)) ?? [];
  const close = () => setBench({ importing: false });
  return (
    <dialog ref={dialog} className="modal" aria-label="Import spots" onClose={close}>
      <div className="modal-box max-w-2xl space-y-3 rounded-md">
        <h2 className="font-semibold">Import spots</h2>
        <input
          type="file"
          className="file-input file-input-sm w-full"
          aria-label="File of samples"
          accept=".csv,.tsv,.txt,.json"
          onChange={(e) => void choose(e.target.files?.[0])}
        />
        {!file && !failure && (
          <p className="quiet text-xs">
            CSV or JSON with at least a frame, a place across and a place down, in pixels of the clip from its
            top left corner. Commas, semicolons or tabs; decimal commas are understood beside semicolons and
            tabs.
          </p>
        )}
        {file && mapping && (
          <>
            <div className="grid grid-cols-3 gap-x-4 gap-y-1.5">
              {FIELDS.map(({ key, label, needed }) => (
                <label key={key} className="flex items-center gap-2 text-xs">
                  <span className="w-20">{label}</span>
                  <select
                    className="select select-xs grow"
                    value={mapping[key] ?? ''}
                    onChange={(e) =>
                      setMapping({ ...mapping, [key]: e.target.value === '' ? null : Number(e.target.value) })
                    }
                  >
                    {!needed && <option value="">none</option>}
                    {file.table.columns.map((c, i) => (
                      <option key={c + i} value={i}>
                        {c}
                      </option>
                    ))}
                  </select>
                </label>
              ))}
            </div>
            <label className="flex items-center gap-2 text-xs">
              The clip’s first frame is number
              <select
                className="select select-xs w-16"
                value={firstFrame}
                onChange={(e) => setFirstFrame(Number(e.target.value))}
              >
                <option value={0}>0</option>
                <option value={1}>1</option>
              </select>
              in the file.
              {file.table.decimalComma && ' Decimal commas are read as such.'}
            </label>
            <div className="rule overflow-x-auto border">
              <table className="num w-full text-xs">
                <thead>
                  <tr className="quiet bg-base-200 text-left">
                    <th className="px-2 py-1 font-normal">
                      {file.table.separator === 'JSON' ? 'entry' : 'line'}
                    </th>
                    {file.table.columns.map((c, i) => (
                      <th key={c + i} className="px-2 py-1 font-normal">
                        {c}
                        {FIELDS.filter((f) => mapping[f.key] === i).map((f) => (
                          <span key={f.key} className="block text-primary">
                            {f.label}
                          </span>
                        ))}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {file.table.rows.slice(0, PREVIEWED).map((r) => (
                    <tr key={r.line}>
                      <td className="quiet px-2">{r.line}</td>
                      {r.cells.map((c, i) => (
                        <td key={i} className="max-w-40 truncate px-2">
                          {c}
                        </td>
                      ))}
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          </>
        )}
        {failure && (
          <p role="alert" className="text-sm text-error">
            ▲ {failure} Nothing was imported.
          </p>
        )}
        {result && 'fault' in result && (
          <p role="alert" className="text-sm text-error">
            ▲ {result.fault} Nothing was imported.
          </p>
        )}
        {ready && (
          <ul className="text-xs" aria-label="What will be imported">
            {ready.map(({ name, track }) => (
              <li key={name}>
                <span className="font-semibold">{name}</span>:{' '}
                <span className="num">{countSamples(track)}</span> samples, frames{' '}
                <span className="num">
                  {track.start} to {trackEnd(track) - 1}
                </span>
                {countSamples(track) < track.state.length &&
                  `, ${track.state.length - countSamples(track)} frames between without one (they stay missing)`}
              </li>
            ))}
          </ul>
        )}
        {twins.length > 0 && (
          <label className="flex items-center gap-2 text-xs">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={replace}
              onChange={(e) => setReplace(e.target.checked)}
            />
            Replace the samples of {twins.map((t) => `“${t.name}”`).join(', ')} instead of adding new spots
          </label>
        )}
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={close}>
            Close
          </button>
          <button
            type="button"
            className="btn btn-primary btn-sm"
            disabled={!ready}
            onClick={() => {
              takeImported(ready!, replace);
              toast.success(
                `${ready!.length === 1 ? 'One spot' : `${ready!.length} spots`} imported from ${file!.name}.`,
              );
              close();
            }}
          >
            Import
          </button>
        </div>
      </div>
    </dialog>
  );
}
