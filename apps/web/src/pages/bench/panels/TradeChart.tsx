import { scaleLinear, scaleSqrt } from 'd3-scale';
import { line } from 'd3-shape';
import { useState, type KeyboardEvent } from 'react';
import type { TradePoint } from '@lurn/core';
import { percent } from '../../../lib/format';
import { setSmoothing, useAim } from '../../../state/aims';
import { bench, useBenchParts } from '../../../state/bench';
import { edit, useShot } from '../../../state/shot';
import { changeGoal, setAt, type ShotState } from '@lurn/model';
import { Hint } from './Section';

const WIDTH = 268;
const HEIGHT = 100;
const LEFT = 38;
const BOTTOM = 16;

/** The zoom that smoothing (or a share of the amounts) costs; a point on the curve can be picked. */
export function TradeChart() {
  const { trade } = useBenchParts('trade');
  const aim = useAim();
  const { goal } = useShot((s) => s.state.document);
  const [hover, setHover] = useState<TradePoint | null>(null);
  const points = trade?.points.filter((p) => Number.isFinite(p.zoom)) ?? [];
  if (!trade || points.length < 2) return <Hint>No zoom fits: shift less, or take less out.</Hint>;
  const smoothing = trade.kind === 'smoothing';
  const last = trade.points[trade.points.length - 1].value;
  const x = (smoothing ? scaleSqrt() : scaleLinear()).domain([0, last]).range([LEFT, WIDTH - 6]);
  const most = Math.max(1.01, ...points.map((p) => p.zoom));
  const y = scaleLinear([1, most], [HEIGHT - BOTTOM, 6]);
  const now = smoothing ? goal.calm.smoothing.x : 1;
  const word = (p: TradePoint) =>
    `${smoothing ? `${p.value} s` : `${Math.round(p.value * 100)} % of it`}: ${percent(p.zoom)}`;
  const pick = (p: TradePoint) => (smoothing ? setSmoothing(p.value) : edit((s) => scaled(s, p.value)));
  const nearest = (px: number) =>
    points.reduce((a, b) => (Math.abs(x(b.value) - px) < Math.abs(x(a.value) - px) ? b : a));
  const at = points.reduce((a, b) => (Math.abs(b.value - now) < Math.abs(a.value - now) ? b : a));
  const onKeyDown = (e: KeyboardEvent) => {
    const step = e.key === 'ArrowRight' ? 1 : e.key === 'ArrowLeft' ? -1 : 0;
    if (step === 0) return;
    e.preventDefault();
    e.stopPropagation();
    const next = points[points.indexOf(at) + step];
    if (next) pick(next);
  };
  return (
    <figure>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="w-full cursor-pointer"
        role="slider"
        tabIndex={0}
        aria-label={smoothing ? 'Zoom against smoothing' : 'Zoom against the amount'}
        aria-valuemin={0}
        aria-valuemax={last}
        aria-valuenow={now}
        aria-valuetext={`${smoothing ? `${now} s` : `${Math.round(aim.amounts.x * 100)} %`}, ${percent(at.zoom)}`}
        onKeyDown={onKeyDown}
        onPointerMove={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          setHover(nearest(((e.clientX - box.left) / box.width) * WIDTH));
        }}
        onPointerLeave={() => setHover(null)}
        onClick={() => hover && pick(hover)}
      >
        {y.ticks(3).map((t) => (
          <g key={t}>
            <line x1={LEFT} x2={WIDTH - 6} y1={y(t)} y2={y(t)} stroke="var(--color-base-300)" />
            <text x={LEFT - 4} y={y(t) + 3} fontSize={9} textAnchor="end" className="num" fill="currentColor">
              {percent(t, most < 1.03 ? 1 : 0)}
            </text>
          </g>
        ))}
        {(smoothing ? [0, 0.25, 1, 2, 4, 8] : [0, 0.5, 1]).map((t) => (
          <text
            key={t}
            x={x(t)}
            y={HEIGHT - 4}
            fontSize={9}
            textAnchor="middle"
            className="num"
            fill="currentColor"
          >
            {smoothing ? t : `${t * 100} %`}
          </text>
        ))}
        <path
          d={
            line<TradePoint>(
              (p) => x(p.value),
              (p) => y(p.zoom),
            )(points) ?? ''
          }
          fill="none"
          stroke="var(--color-primary)"
          strokeWidth={1.5}
        />
        {points.map((p) => (
          <circle
            key={p.value}
            cx={x(p.value)}
            cy={y(p.zoom)}
            r={p === hover ? 4 : 2}
            fill="var(--color-primary)"
          />
        ))}
        <line
          x1={x(Math.min(now, last))}
          x2={x(Math.min(now, last))}
          y1={6}
          y2={HEIGHT - BOTTOM}
          stroke="currentColor"
          strokeDasharray="3 2"
        />
      </svg>
      <figcaption className="text-[11px]">
        {hover ? (
          word(hover)
        ) : (
          <span className="quiet">
            {smoothing ? 'seconds of smoothing' : 'share of the present amounts'} across, fit zoom up; press
            to pick
          </span>
        )}
      </figcaption>
    </figure>
  );
}

/** The goal with all its amounts times `k`. */
function scaled(state: ShotState, k: number): ShotState {
  const { goal } = state.document;
  const less = ({ x, y, rotation, scale }: typeof goal.amounts) => ({
    x: k * x,
    y: k * y,
    rotation: k * rotation,
    scale: k * scale,
  });
  if (goal.keys.length > 0)
    return changeGoal(state, { keys: goal.keys.map((key) => ({ ...key, amounts: less(key.amounts) })) });
  return setAt(state, bench().frame, { goal: goal.goal, amounts: less(goal.amounts) });
}
