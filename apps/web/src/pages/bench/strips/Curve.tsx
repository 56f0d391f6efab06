import { scaleLinear } from 'd3-scale';
import { useCallback, useMemo } from 'react';
import { StripCanvas, type Pen } from '../../../components/StripCanvas';
import { useCuts, type Cut } from '../../../state/cuts';
import { useLegibleFrame } from '../../../state/legible-frame';
import { CURVE, LABEL, RIGHT, type useScrub, type X } from './axis';
import { drawCurve, type DrawnCurve } from './drawn-curve';

/** What all curves on the time axis share. */
export interface OnAxis {
  readonly x: X;
  readonly width: number;
  readonly scrub: ReturnType<typeof useScrub>;
  /** The frame that the pointer is over: numbers are told for it, else for the playhead. */
  readonly hover: number | null;
}

export interface CurveLine {
  readonly values: ArrayLike<number>;
  readonly colour: string;
  /** Told beside its number; none for a curve that needs no name. */
  readonly name?: string;
  readonly dash?: DrawnCurve['dash'];
  /** Its colour is one of the data: no letter is written in it, a small field before the name shows it. */
  readonly keyed?: boolean;
  /** Has a scale of its own, with zero in the middle of the row: a small curve beside large ones. */
  readonly apart?: boolean;
}

interface CurveProps extends OnAxis {
  readonly label: string;
  readonly lines: readonly CurveLine[];
  /** Frame of the first value. */
  readonly from: number;
  readonly format: (value: number) => string;
  /** The lower end of the scale; it follows the values when it is left out. */
  readonly floor?: number;
  /** A value that is marked across, and always on the scale. */
  readonly limit?: number;
  /** The scale goes no higher than this, however large the values are. */
  readonly ceiling?: number;
  readonly marks?: readonly number[];
  readonly height?: number;
}

/** The stretches of a curve between cuts; the curve itself where there is none, since what sums it up is known by it. */
function piecesOf(values: ArrayLike<number>, from: number, cuts: readonly Cut[]) {
  const within = cuts.map((c) => c.frame).filter((c) => c > from && c < from + values.length);
  if (within.length === 0) return [{ start: from, values }];
  return [from, ...within].map((start, k) => ({
    start,
    values: Array.prototype.slice.call(values, start - from, (within[k] ?? Infinity) - from) as number[],
  }));
}

export function Curve(props: CurveProps) {
  const {
    label,
    x,
    width,
    scrub,
    hover,
    lines,
    from,
    format,
    floor,
    limit,
    ceiling,
    marks = [],
    height = CURVE,
  } = props;
  const cuts = useCuts();
  const scales = useMemo(() => {
    const shared = extent(lines.filter((l) => !l.apart));
    const low = floor ?? shared.low;
    const y = scaleLinear(
      [low, Math.min(ceiling ?? Infinity, Math.max(low + 0.02, limit ?? -Infinity, shared.high))],
      [height - 5, 5],
    ).clamp(true);
    const own = extent(lines.filter((l) => l.apart));
    const reach = Math.max(1e-6, Math.abs(own.low), Math.abs(own.high));
    return { y, apart: scaleLinear([-reach, reach], [height - 5, 5]) };
  }, [lines, floor, limit, ceiling, height]);
  // What is before a cut has nothing to do with what is after it.
  const pieces = useMemo(() => lines.map(({ values }) => piecesOf(values, from, cuts)), [lines, from, cuts]);
  const draw = useCallback(
    (pen: Pen) =>
      lines.forEach((l, i) => {
        const y = l.apart ? scales.apart : scales.y;
        for (const { start, values } of pieces[i])
          drawCurve(pen, { values, y, at: (k) => x(start + k), colour: l.colour, dash: l.dash });
      }),
    [lines, pieces, x, scales],
  );
  return (
    <div className="rule flex border-t" style={{ height }}>
      <div
        className="shrink-0 overflow-hidden px-2 pt-0.5 text-[11px] leading-[14px]"
        style={{ width: LABEL }}
      >
        <span className="block truncate">{label}</span>
        <Numbers lines={lines} from={from} format={format} hover={hover} />
      </div>
      <div className="relative" style={{ width: width + RIGHT, height }}>
        <StripCanvas width={width + RIGHT} height={height} draw={draw} />
        <svg
          width={width + RIGHT}
          height={height}
          {...scrub}
          className="absolute inset-0 cursor-pointer overflow-hidden"
          role="img"
          aria-label={label}
        >
          {apart(marks, x).map((f) => (
            <path
              key={f}
              d={`M${x(f)} ${height - 8}v8`}
              stroke="var(--color-error)"
              strokeWidth={Math.max(1.5, x(1) - x(0) - 0.5)}
              strokeDasharray="2 1"
            >
              <title>{`An edge shows on frame ${f}`}</title>
            </path>
          ))}
          {limit !== undefined && (
            <line
              x1={0}
              x2={width}
              y1={scales.y(limit)}
              y2={scales.y(limit)}
              stroke="var(--color-primary)"
              strokeDasharray="5 4"
            />
          )}
          {lines.some((l) => l.apart) && (
            <line x1={0} x2={width} y1={height / 2} y2={height / 2} stroke="var(--color-base-300)" />
          )}
        </svg>
      </div>
    </div>
  );
}

/** The values of the lines where the pointer is, else at the playhead. */
function Numbers({ lines, from, format, hover }: Pick<CurveProps, 'lines' | 'from' | 'format' | 'hover'>) {
  const playhead = useLegibleFrame();
  const at = (hover ?? playhead) - from;
  return lines.map((l, i) => (
    <span
      key={i}
      className="num flex items-center justify-between gap-1 whitespace-nowrap"
      style={l.keyed ? undefined : { color: l.colour }}
    >
      {l.keyed && <span className="h-2 w-2 shrink-0" style={{ background: l.colour }} aria-hidden="true" />}
      <span className={`truncate font-sans ${l.keyed ? 'grow' : ''}`}>{l.name}</span>
      {Number.isFinite(l.values[at]) ? format(l.values[at]) : '–'}
    </span>
  ));
}

/** Of marks that lie on one another, the first; none that lies outside. @param marks  frames in order */
function apart(marks: readonly number[], x: X): readonly number[] {
  const [left, right] = x.domain();
  let last = -Infinity;
  return marks.filter((f) => {
    if (f < left || f > right || x(f) - last < 1) return false;
    last = x(f);
    return true;
  });
}

function extent(lines: readonly CurveLine[]): { low: number; high: number } {
  let low = Infinity;
  let high = -Infinity;
  for (const { values } of lines) {
    for (let i = 0; i < values.length; i++) {
      const v = values[i];
      if (!Number.isFinite(v)) continue;
      if (v < low) low = v;
      if (v > high) high = v;
    }
  }
  return low <= high ? { low, high } : { low: 0, high: 1 };
}
