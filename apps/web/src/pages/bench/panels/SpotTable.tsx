import { createSortedRowModel, rowSortingFeature, tableFeatures, useTable } from '@tanstack/react-table';
import { ChevronDown, ChevronUp } from 'lucide-react';
import { useMemo } from 'react';
import { gradeOf, type Grip } from '@lurn/core/track';
import { spotsOf, trackOf, type Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { goToSpot } from '../../../state/edit-spots';
import { setBench, useBench, useBenchParts } from '../../../state/bench';
import { lookAt } from '../../../state/repairs';
import { useShot } from '../../../state/shot';

interface Row {
  readonly spot: Spot;
  readonly name: string;
  /** Undefined where it is not known: sorted behind all others. */
  readonly grip: number | undefined;
  readonly frames: number;
  readonly confidence: number | undefined;
  readonly residual: number | undefined;
  readonly doubts: number;
}

const HEADS: Readonly<
  Record<string, { readonly head: string; readonly title: string; readonly width?: string }>
> = {
  name: { head: 'Spot', title: 'Name' },
  grip: { head: 'Grip', title: 'Predicted error of a match, in pixels', width: 'w-[44px]' },
  frames: { head: 'Cover', title: 'Frames of the range that have a sample, per cent', width: 'w-[43px]' },
  confidence: { head: 'Conf.', title: 'Mean confidence', width: 'w-[37px]' },
  residual: {
    head: 'Resid.',
    title: 'Distance from where the other spots of its group put it, pixels RMS',
    width: 'w-[39px]',
  },
  doubts: { head: 'Doubts', title: 'Places that are not trusted', width: 'w-[47px]' },
};

const FEATURES = tableFeatures({ rowSortingFeature, sortedRowModel: createSortedRowModel() });
const byValue = (a: number | string | undefined, b: number | string | undefined) =>
  a! < b! ? -1 : a! > b! ? 1 : 0;
const COLUMNS = (['name', 'grip', 'frames', 'confidence', 'residual', 'doubts'] as const).map((key) => ({
  id: key,
  accessorFn: (row: Row) => row[key],
  sortDescFirst: key !== 'name',
  sortUndefined: 'last' as const,
  sortFn: (a: { original: Row }, b: { original: Row }) => byValue(a.original[key], b.original[key]),
}));

/** Every spot with how well it holds, how far it is tracked and how much it is doubted; sorted by any of these. */
export function SpotTable() {
  const data = useRows();
  const { selected, grips, doubts } = useBenchParts('selected', 'grips', 'doubts');
  const table = useTable({ features: FEATURES, columns: COLUMNS, data, getRowId: ({ spot }) => spot.id });
  return (
    <table className="w-full table-fixed text-xs" aria-label="Spots">
      <colgroup>
        {COLUMNS.map(({ id }) => (
          <col key={id} className={HEADS[id].width} />
        ))}
      </colgroup>
      <thead>
        <tr className="quiet">
          {table.getFlatHeaders().map(({ column }) => {
            const sorted = column.getIsSorted();
            return (
              <th
                key={column.id}
                className={`pb-1 font-normal ${column.id === 'name' ? 'text-left' : 'text-right'}`}
                aria-sort={sorted ? (sorted === 'desc' ? 'descending' : 'ascending') : 'none'}
              >
                <button
                  type="button"
                  title={`${HEADS[column.id].title}. Press to sort.`}
                  className="inline-flex cursor-pointer items-center"
                  onClick={column.getToggleSortingHandler()}
                >
                  {HEADS[column.id].head}
                  {sorted && (sorted === 'desc' ? <ChevronDown size={10} /> : <ChevronUp size={10} />)}
                </button>
              </th>
            );
          })}
        </tr>
      </thead>
      <tbody>
        {table
          .getRowModel()
          .rows.map(({ original: { spot, grip, frames, confidence, residual, doubts: n } }) => (
            <tr
              key={spot.id}
              className={`cursor-pointer ${selected.includes(spot.id) ? 'bg-base-300' : 'hover:bg-base-300/50'} ${spot.used ? '' : 'opacity-60'}`}
              onClick={(e) => select(spot.id, e.shiftKey || e.ctrlKey || e.metaKey)}
            >
              <td className="h-6 truncate">
                <button
                  type="button"
                  className="flex w-full items-center gap-1.5 truncate text-left"
                  aria-label={`Select ${spot.name}`}
                >
                  <span className="size-2.5 shrink-0" style={{ background: spotColour(spot.colour) }} />
                  <span className="truncate">{spot.name}</span>
                </button>
              </td>
              <td className="num text-right">
                <GripCell grip={grips[spot.id]} value={grip} />
              </td>
              <td className="num text-right">{Math.round(frames * 100)}&thinsp;%</td>
              <td className="num text-right">{number(confidence, 2)}</td>
              <td className="num text-right">{number(residual, 2)}</td>
              <td className="num text-right">
                {n > 0 ? (
                  <button
                    type="button"
                    className="cursor-pointer text-warning underline"
                    title={`Go to the worst doubt of ${spot.name}`}
                    onClick={(e) => {
                      e.stopPropagation();
                      lookAt(doubts.find((d) => d.spot === spot.id));
                    }}
                  >
                    ▲ {n}
                  </button>
                ) : (
                  '0'
                )}
              </td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}

function useRows(): Row[] {
  const { document, measured } = useShot((s) => s.state);
  const { grips, residuals, doubts } = useBenchParts('grips', 'residuals', 'doubts');
  return useMemo(() => {
    const { from, to } = document.range;
    return spotsOf(document).map((spot): Row => {
      const track = trackOf({ measured }, spot.id);
      let [all, inRange, sum] = [0, 0, 0];
      const { state, confidence, start } = track;
      for (let i = 0; i < state.length; i++) {
        if (!state[i]) continue;
        all++;
        sum += confidence[i];
        if (start + i >= from && start + i <= to) inRange++;
      }
      return {
        spot,
        name: spot.name,
        grip: grips[spot.id]?.error,
        frames: inRange / (to - from + 1),
        confidence: all > 0 ? sum / all : undefined,
        residual: residuals[spot.id],
        doubts: doubts.filter((d) => d.spot === spot.id).length,
      };
    });
  }, [document, measured, grips, residuals, doubts]);
}

function number(v: number | undefined, decimals: number): string {
  return v !== undefined && Number.isFinite(v) ? v.toFixed(decimals) : '–';
}

function select(id: string, more: boolean): void {
  const { selected } = useBench.getState();
  const others = selected.filter((s) => s !== id);
  setBench({ selected: more ? (selected.includes(id) ? others : [id, ...others]) : [id] });
  goToSpot(id);
}

function GripCell({ grip, value }: { readonly grip: Grip | undefined; readonly value: number | undefined }) {
  if (!grip || value === undefined) return <span className="quiet">…</span>;
  const grade = gradeOf(grip);
  const doubtful = grade === 'loose' || grade === 'none' || grip.lookalike;
  return (
    <span className={doubtful ? 'text-warning' : ''} title={gripWords(grip)}>
      {doubtful ? '▲' : ''}
      {Number.isFinite(value) ? (value < 9.995 ? Math.max(0.01, value).toFixed(2) : '>10') : '∞'}
    </span>
  );
}

/** A grip in words. */
export function gripWords(grip: Grip): string {
  const grade = gradeOf(grip);
  const degrees = grip.slides === null ? 0 : Math.round(((grip.slides * 180) / Math.PI + 180) % 180);
  const parts = [
    {
      firm: 'Holds firmly',
      fair: 'Holds fairly',
      loose: 'Holds loosely',
      none: 'Nothing to hold on to',
    }[grade],
  ];
  if (grip.slides !== null) {
    const way =
      degrees < 23 || degrees > 157
        ? 'sideways'
        : degrees < 68
          ? 'down to the right'
          : degrees < 113
            ? 'up and down'
            : 'up to the right';
    parts.push(`a straight edge: it may slide ${way}`);
  }
  if (grip.lookalike) parts.push(`a lookalike (${grip.lookalike.score.toFixed(2)}) lies within the reach`);
  return `${parts.join('; ')}.`;
}
