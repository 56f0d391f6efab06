import { memo, useMemo } from 'react';
import { apply, type Matrix3 } from '@lurn/core/geometry';
import type { GripMap } from '@lurn/core/track';
import type { BenchState } from '../../../state/bench';
import { takeSuggestions } from '../../../state/spot-quality';
import { Stroke } from './strokes';

/** What helps to place spots: the grip map, suggestions, and the rectangle they are looked for in. */

/** Of the places that hold at all, these shares are marked strongly and lightly. */
const BEST = 0.08;
const GOOD = 0.25;

/** Where patches hold best in this picture, as cells: the firmest strongly, the next lightly, the rest not at all. */
export const MapOverlay = memo(function MapOverlay({
  map,
  toPane,
}: {
  readonly map: GripMap;
  readonly toPane: Matrix3;
}) {
  const paths = useMemo(() => {
    const sorted = [...map.errors].filter((e) => e < 0.5).sort((p, q) => p - q);
    const [best, good] = [BEST, GOOD].map((share) => sorted[Math.floor(share * sorted.length)] ?? 0);
    const d = { firm: '', fair: '' };
    map.errors.forEach((error, k) => {
      if (error >= good) return;
      d[error < best ? 'firm' : 'fair'] +=
        `M${(k % map.columns) * map.step} ${Math.floor(k / map.columns) * map.step}h${map.step}v${map.step}h${-map.step}Z`;
    });
    return d;
  }, [map]);
  const [a, b, c, d, e, f] = toPane;
  return (
    <g transform={`matrix(${a} ${d} ${b} ${e} ${c} ${f})`} pointerEvents="none" data-testid="grip-map">
      <path d={paths.fair} fill="var(--color-primary)" opacity={0.22} />
      <path d={paths.firm} fill="var(--color-primary)" opacity={0.5} />
    </g>
  );
});

export function RectangleMark({
  rectangle: [left, top, right, bottom],
  toPane,
}: {
  readonly rectangle: readonly [number, number, number, number];
  readonly toPane: Matrix3;
}) {
  const [p, q] = [apply(toPane, left, top), apply(toPane, right, bottom)];
  const d = `M${p.x} ${p.y}H${q.x}V${q.y}H${p.x}Z`;
  return <Stroke d={d} dash="6 4" />;
}

export function SuggestionMark({
  suggestion,
  index,
  toPane,
}: {
  readonly suggestion: BenchState['suggestions'][number];
  readonly index: number;
  readonly toPane: Matrix3;
}) {
  const { x, y } = apply(toPane, suggestion.x, suggestion.y);
  return (
    <g
      className="cursor-pointer"
      onPointerDown={(e) => {
        e.stopPropagation();
        takeSuggestions([suggestion]);
      }}
    >
      <title>{`Suggestion ${index + 1}: ± ${suggestion.grip.error.toFixed(2)} px. Press to place it.`}</title>
      <circle cx={x} cy={y} r={11} fill="#000" fillOpacity={0.35} stroke="#000" strokeWidth={3.4} />
      <circle
        cx={x}
        cy={y}
        r={11}
        fill="none"
        stroke="var(--color-primary)"
        strokeWidth={1.6}
        strokeDasharray="4 2.5"
      />
      <text x={x} y={y + 4} textAnchor="middle" fontSize={11} className="num select-none" fill="#e8e2d4">
        {index + 1}
      </text>
    </g>
  );
}
