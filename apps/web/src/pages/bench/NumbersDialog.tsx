import { useMemo } from 'react';
import { toast } from 'sonner';
import type { Steady } from '@lurn/core';
import { goTo, setBench, useBenchParts } from '../../state/bench';
import { useShot } from '../../state/shot';

const DEGREES = 180 / Math.PI;
const HEAD = [
  'frame',
  'time_s',
  'x_px',
  'y_px',
  'rotation_deg',
  'scale_pct',
  'correction_x_px',
  'correction_y_px',
  'correction_rotation_deg',
  'correction_scale_pct',
  'residual_px',
] as const;

/** Measured motion beside the correction applied, frame by frame: the rotation negated, the scale inverted. */
function rowsOf(plan: Steady, times: Float64Array, from: number, to: number): string[][] {
  const { parts, residual } = plan.motion;
  return Array.from({ length: to - from + 1 }, (_, i) => {
    const f = from + i;
    const [m, l] = [parts[f], plan.left[f]];
    return [
      String(f),
      (times[f] ?? 0).toFixed(4),
      m.x.toFixed(3),
      m.y.toFixed(3),
      (m.rotation * DEGREES).toFixed(4),
      (Math.exp(m.logScale) * 100).toFixed(3),
      (l.x - m.x).toFixed(3),
      (l.y - m.y).toFixed(3),
      ((l.rotation - m.rotation) * DEGREES).toFixed(4),
      (Math.exp(l.logScale - m.logScale) * 100).toFixed(3),
      Number.isNaN(residual[f]) ? '' : residual[f].toFixed(3),
    ];
  });
}

/** Rows shown at a time: a long shot is paged round the playhead. */
const SHOWN = 200;

export function NumbersDialog() {
  const { steady, times, frame } = useBenchParts('steady', 'times', 'frame');
  const { range } = useShot((s) => s.state.document);
  const rows = useMemo(
    () => (steady ? rowsOf(steady, times, range.from, range.to) : []),
    [steady, times, range],
  );
  if (!steady) return null;
  const close = () => setBench({ numbers: false });
  const copy = () =>
    navigator.clipboard
      .writeText([HEAD.join('\t'), ...rows.map((r) => r.join('\t'))].join('\n'))
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
                {HEAD.map((h) => (
                  <th key={h} className="px-1.5 pb-1 font-normal">
                    {h}
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
