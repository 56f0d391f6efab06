import { useMemo } from 'react';
import { toast } from 'sonner';
import { MOTION_COLUMNS, motionTable } from '@lurn/core/formats';
import { goTo, setBench, useBenchParts } from '../../state/bench';
import { useShot } from '../../state/shot';

/** Rows shown at a time: a long shot is paged round the playhead. */
const SHOWN = 200;
/** Told on a line of its own above these columns, so that all fit beside each other. */
const CORRECTION = 'correction_';

export function NumbersDialog() {
  const { steady, times, frame } = useBenchParts('steady', 'times', 'frame');
  const { range } = useShot((s) => s.state.document);
  const rows = useMemo(
    () => (steady ? motionTable(steady, times, range.from, range.to) : []),
    [steady, times, range],
  );
  if (!steady) return null;
  const close = () => setBench({ numbers: false });
  const copy = () =>
    navigator.clipboard
      .writeText([MOTION_COLUMNS.join('\t'), ...rows.map((r) => r.join('\t'))].join('\n'))
      .then(() => toast.success(`${rows.length} rows copied, with tabs between the columns.`))
      .catch(() => toast.error('The browser does not let the page copy. Select the rows and press Ctrl C.'));
  const first = Math.max(0, Math.min(rows.length - SHOWN, frame - range.from - SHOWN / 2));
  const { x, y } = steady.motion.pivot;
  return (
    <dialog
      open
      className="modal"
      aria-label="Motion and correction"
      onKeyDown={(e) => e.key === 'Escape' && close()}
    >
      <div className="modal-box flex max-h-[86vh] max-w-5xl flex-col bg-base-200 p-4">
        <h2 className="font-semibold">Motion and correction</h2>
        <p className="quiet mb-2 text-xs">
          Measured about ({x.toFixed(1)}, {y.toFixed(1)}) px of the reference frame, and beside it what is
          applied. Rotation is positive clockwise.
        </p>
        <div className="min-h-0 grow overflow-auto">
          <table className="num w-full text-right text-xs">
            <thead className="sticky top-0 bg-base-200">
              <tr>
                {MOTION_COLUMNS.map((h) => (
                  <th key={h} className="px-1.5 pb-1 align-bottom font-normal">
                    {h.startsWith(CORRECTION) ? (
                      <>
                        <span className="quiet block">{CORRECTION}</span>
                        {h.slice(CORRECTION.length)}
                      </>
                    ) : (
                      h
                    )}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.slice(first, first + SHOWN).map((row) => (
                <tr
                  key={row[0]}
                  className={`cursor-pointer hover:bg-base-300/60 ${Number(row[0]) === frame ? 'bg-base-300' : ''}`}
                  onClick={() => goTo(Number(row[0]))}
                >
                  {row.map((v, i) => (
                    <td key={i} className="px-1.5">
                      {v}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <div className="mt-3 flex items-center justify-end gap-2">
          {rows.length > SHOWN && (
            <span className="quiet grow text-xs">
              Rows {rows[first][0]} to {rows[Math.min(rows.length, first + SHOWN) - 1][0]} of {rows.length};
              all are copied.
            </span>
          )}
          <button type="button" className="btn btn-sm" onClick={() => void copy()}>
            Copy as a table
          </button>
          <button type="button" className="btn btn-sm btn-primary" autoFocus onClick={close}>
            Close
          </button>
        </div>
      </div>
    </dialog>
  );
}
