import { scaleLinear } from 'd3-scale';
import { line } from 'd3-shape';
import { useMemo } from 'react';
import type { Track } from '@lurn/core';
import type { Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { useBench } from '../../../state/bench';
import { CURVE, LABEL, RIGHT, type useScrub, type X } from './axis';

/** Across, down and confidence of one spot along time, with what a change under consideration would do. */
export function SpotCurves({
  spot,
  track,
  changed,
  x,
  width,
  scrub,
}: {
  readonly spot: Spot;
  readonly track: Track;
  readonly changed: Track | null;
  readonly x: X;
  readonly width: number;
  readonly scrub: ReturnType<typeof useScrub>;
}) {
  const row = (label: string, key: 'x' | 'y' | 'confidence', unit: string, decimals: number) => {
    const values = (t: Track) => Float64Array.from(t[key], (v, i) => (t.state[i] ? v : NaN));
    const lines = [{ values: values(track), colour: spotColour(spot.colour), name: 'now' }];
    if (changed && key !== 'confidence') {
      lines.push({ values: values(changed), colour: 'var(--color-base-content)', name: 'tamed' });
    }
    const seen = [...lines[0].values].filter(Number.isFinite);
    return (
      <Curve
        key={key}
        label={`${spot.name}, ${label}`}
        unit={unit}
        x={x}
        width={width}
        scrub={scrub}
        lines={lines}
        from={track.start}
        format={(v) => `${v.toFixed(decimals)}${unit && ` ${unit}`}`}
        floor={key === 'confidence' ? 0 : Math.min(...seen)}
        limit={key === 'confidence' ? 1 : undefined}
      />
    );
  };
  return (
    <>
      {row('across', 'x', 'px', 1)}
      {row('down', 'y', 'px', 1)}
      {row('confidence', 'confidence', '', 2)}
    </>
  );
}

interface CurveProps {
  readonly label: string;
  readonly unit: string;
  readonly x: X;
  readonly width: number;
  readonly scrub: ReturnType<typeof useScrub>;
  readonly lines: readonly {
    readonly values: Float64Array;
    readonly colour: string;
    readonly name: string;
  }[];
  /** Frame of the first value. */
  readonly from: number;
  readonly format: (value: number) => string;
  readonly floor: number;
  readonly limit?: number;
  readonly marks?: readonly number[];
}

export function Curve({ label, x, width, scrub, lines, from, format, floor, limit, marks = [] }: CurveProps) {
  const frame = useBench((s) => s.frame);
  const top = Math.max(floor + 0.02, limit ?? -Infinity, ...lines.flatMap((l) => [maximum(l.values)]));
  const y = scaleLinear([floor, top], [CURVE - 5, 5]).clamp(true);
  const paths = useMemo(
    () =>
      lines.map((l) =>
        line<number>()
          .defined((i) => Number.isFinite(l.values[i]))
          .x((i) => x(from + i))
          .y((i) => y(l.values[i]))(Array.from(l.values, (_, i) => i)),
      ),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the scales follow from these
    [lines, from, x, top, floor],
  );
  return (
    <div className="rule flex border-t" style={{ height: CURVE }}>
      <div className="shrink-0 overflow-hidden px-2 pt-1 text-[11px] leading-[14px]" style={{ width: LABEL }}>
        {label}
        {lines.map((l) => (
          <span key={l.name} className="num block" style={{ color: l.colour }}>
            {Number.isFinite(l.values[frame - from]) ? format(l.values[frame - from]) : '–'}
          </span>
        ))}
      </div>
      <svg
        width={width + RIGHT}
        height={CURVE}
        {...scrub}
        className="cursor-pointer overflow-hidden"
        role="img"
        aria-label={label}
      >
        {limit !== undefined && (
          <line
            x1={0}
            x2={width}
            y1={y(limit)}
            y2={y(limit)}
            stroke="var(--color-primary)"
            strokeDasharray="5 4"
          />
        )}
        {paths.map((d, i) => (
          <path key={i} d={d ?? ''} fill="none" stroke={lines[i].colour} strokeWidth={1.3} />
        ))}
        {marks.map((f) => (
          <path
            key={f}
            d={`M${x(f)} 3v${CURVE - 6}`}
            stroke="var(--color-error)"
            strokeWidth={Math.max(1.5, x(1) - x(0) - 0.5)}
            strokeDasharray="2 1.5"
            opacity={0.85}
          >
            <title>{`An edge shows on frame ${f}`}</title>
          </path>
        ))}
      </svg>
    </div>
  );
}

function maximum(values: Float64Array): number {
  let most = -Infinity;
  for (const v of values) if (Number.isFinite(v) && v > most) most = v;
  return most;
}
