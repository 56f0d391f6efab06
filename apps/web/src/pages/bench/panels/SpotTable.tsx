import { ChevronDown, ChevronUp } from 'lucide-react';
import { useMemo, useState } from 'react';
import { countSamples, EMPTY_TRACK, gradeOf, type Grip } from '@lurn/core';
import type { Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { goToSpot } from '../../../state/acts';
import { setBench, useBench, useBenchParts } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import { lookAt } from '../../../state/repairs';

type Column = 'name' | 'grip' | 'frames' | 'confidence' | 'residual' | 'doubts';

interface Row {
  readonly spot: Spot;
  readonly name: string;
  readonly grip: number;
  readonly frames: number;
  readonly confidence: number;
  readonly residual: number;
  readonly doubts: number;
}

const COLUMNS: readonly { readonly key: Column; readonly head: string; readonly title: string }[] = [
  { key: 'name', head: 'Spot', title: 'Name' },
  { key: 'grip', head: 'Grip', title: 'Predicted error of a match, in pixels' },
  { key: 'frames', head: 'Cover', title: 'Frames of the range that have a sample, per cent' },
  { key: 'confidence', head: 'Conf.', title: 'Mean confidence' },
  {
    key: 'residual',
    head: 'Resid.',
    title: 'Distance from where the other spots of its group put it, pixels RMS',
  },
  { key: 'doubts', head: 'Doubts', title: 'Places that are not trusted' },
];

/** Every spot with how well it holds, how far it is tracked and how much it is doubted; sorted by any of these. */
export function SpotTable() {
  const { document, tracks } = useShot((s) => s.state);
  const { grips, residuals, doubts, selected } = useBenchParts('grips', 'residuals', 'doubts', 'selected');
  const [order, setOrder] = useState<{ by: Column | null; down: boolean }>({ by: null, down: false });
  const rows = useMemo(() => {
    const { from, to } = document.range;
    const list = document.spots.map((spot): Row => {
      const track = tracks[spot.id] ?? EMPTY_TRACK;
      const n = countSamples(track);
      const inRange = track.state.filter(
        (s, i) => s && track.start + i >= from && track.start + i <= to,
      ).length;
      return {
        spot,
        name: spot.name,
        grip: grips[spot.id]?.error ?? NaN,
        frames: inRange / (to - from + 1),
        confidence: n > 0 ? track.confidence.reduce((a, b) => a + b, 0) / n : NaN,
        residual: residuals[spot.id] ?? NaN,
        doubts: doubts.filter((d) => d.spot === spot.id).length,
      };
    });
    const { by, down } = order;
    if (by === null) return list;
    const value = (r: Row) => (typeof r[by] === 'number' && Number.isNaN(r[by]) ? -1 : r[by]);
    const sorted = list.sort((a, b) => (value(a) < value(b) ? -1 : value(a) > value(b) ? 1 : 0));
    return down ? sorted.reverse() : sorted;
  }, [document, tracks, grips, residuals, doubts, order]);
  const number = (v: number, decimals: number) => (Number.isFinite(v) ? v.toFixed(decimals) : '–');
  return (
    <table className="w-full table-fixed text-xs" aria-label="Spots">
      <colgroup>
        <col />
        <col className="w-[44px]" />
        <col className="w-[43px]" />
        <col className="w-[37px]" />
        <col className="w-[39px]" />
        <col className="w-[47px]" />
      </colgroup>
      <thead>
        <tr className="quiet">
          {COLUMNS.map(({ key, head, title }) => (
            <th
              key={key}
              className={`pb-1 font-normal ${key === 'name' ? 'text-left' : 'text-right'}`}
              aria-sort={order.by === key ? (order.down ? 'descending' : 'ascending') : 'none'}
            >
              <button
                type="button"
                title={`${title}. Press to sort.`}
                className="inline-flex cursor-pointer items-center"
                onClick={() => setOrder({ by: key, down: order.by === key ? !order.down : key !== 'name' })}
              >
                {head}
                {order.by === key && (order.down ? <ChevronDown size={10} /> : <ChevronUp size={10} />)}
              </button>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(({ spot, grip, frames, confidence, residual, doubts: n }) => (
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
                    lookAt(doubts.findIndex((d) => d.spot === spot.id));
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

function select(id: string, more: boolean): void {
  const { selected } = useBench.getState();
  const others = selected.filter((s) => s !== id);
  setBench({ selected: more ? (selected.includes(id) ? others : [id, ...others]) : [id] });
  goToSpot(id);
}

function GripCell({ grip, value }: { readonly grip: Grip | undefined; readonly value: number }) {
  if (!grip) return <span className="quiet">…</span>;
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
