import type { Role } from '@lurn/core/solve';
import { spotsOf } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { editSpot } from '../../../state/edit-spots';
import { setBench, useBenchParts } from '../../../state/bench';
import { residualOf } from '../../../state/residuals';
import { useShot } from '../../../state/shot';
import { Hint } from './Section';

const ROLES: Record<Role, string> = { both: 'both', position: 'position', turn: 'rotation, scale' };

/** What each spot is asked about, and how well the motion explains it. */
export function SolveTable() {
  const { steady, selected, frame } = useBenchParts('steady', 'selected', 'frame');
  const { document } = useShot((s) => s.state);
  const { range } = document;
  const spots = spotsOf(document);
  if (spots.length === 0) return <Hint>There is no spot yet.</Hint>;
  return (
    <>
      <table className="w-full table-fixed text-xs" aria-label="Spots in the solve">
        <colgroup>
          <col />
          <col className="w-[92px]" />
          <col className="w-[52px]" />
          <col className="w-[46px]" />
        </colgroup>
        <thead>
          <tr className="quiet text-left">
            <th className="pb-1 font-normal">Spot</th>
            <th className="pb-1 font-normal" title="What the spot is asked about">
              Tells
            </th>
            <th
              className="pb-1 text-right font-normal"
              title="Distance from where the motion puts it, pixels RMS over the range"
            >
              Resid.
            </th>
            <th className="pb-1 text-right font-normal" title="The same on this frame, in pixels">
              Here
            </th>
          </tr>
        </thead>
        <tbody>
          {spots.map((spot) => {
            const { rms, here } = residualOf(steady, spot.id, range, frame);
            const odd = steady?.odd.some((o) => o.spot === spot.id);
            return (
              <tr
                key={spot.id}
                className={`cursor-pointer ${selected.includes(spot.id) ? 'bg-base-300' : ''} ${spot.used ? '' : 'opacity-60'}`}
                onClick={() => setBench({ selected: [spot.id] })}
              >
                <td className="h-7 truncate">
                  <label className="flex items-center gap-1.5" title={spot.used ? 'Used' : 'Left out'}>
                    <input
                      type="checkbox"
                      className="checkbox checkbox-xs"
                      aria-label={`Use ${spot.name}`}
                      checked={spot.used}
                      onChange={(e) => editSpot(spot.id, { used: e.target.checked })}
                    />
                    <span className="size-2.5 shrink-0" style={{ background: spotColour(spot.colour) }} />
                    <span className="truncate">{spot.name}</span>
                  </label>
                </td>
                <td>
                  <select
                    className="select select-xs w-full px-1"
                    aria-label={`${spot.name} tells`}
                    value={spot.role}
                    onChange={(e) => {
                      editSpot(spot.id, { role: e.target.value as Role });
                      e.target.blur();
                    }}
                  >
                    {Object.entries(ROLES).map(([value, text]) => (
                      <option key={value} value={value}>
                        {text}
                      </option>
                    ))}
                  </select>
                </td>
                <td className={`num text-right ${odd ? 'text-warning' : ''}`}>
                  {odd ? '▲' : ''}
                  {number(rms)}
                </td>
                <td className="num text-right">{number(here)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <Hint>
        Residuals in pixels: how far a spot is from where the solved motion puts it. Two spots alone have
        none.
      </Hint>
    </>
  );
}

function number(v: number): string {
  return Number.isFinite(v) ? v.toFixed(2) : '–';
}
