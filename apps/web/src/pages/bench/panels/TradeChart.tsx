import { scaleLinear, scaleSqrt } from 'd3-scale';
import { line } from 'd3-shape';
import { useState, type KeyboardEvent } from 'react';
import type { TradePoint } from '@lurn/core/plan';
import { Plot, PLOT, PlotLine } from '../../../components/Plot';
import { percent } from '../../../lib/format';
import { setSmoothing, useAim } from '../../../state/aims';
import { bench, useBenchParts } from '../../../state/bench';
import { edit, useShot } from '../../../state/shot';
import { changeGoal, setAt, type ShotState } from '@lurn/model';
import { Hint } from './Section';

const HEIGHT = 100;

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
  const x = (smoothing ? scaleSqrt() : scaleLinear())
    .domain([0, last])
    .range([PLOT.left, PLOT.width - PLOT.right]);
  const most = Math.max(1.01, ...points.map((p) => p.zoom));
  const y = scaleLinear([1, most], [HEIGHT - PLOT.bottom, PLOT.top]);
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
    <Plot
      label={smoothing ? 'Zoom against smoothing' : 'Zoom against the amount'}
      height={HEIGHT}
      grid="up"
      across={(smoothing ? [0, 0.25, 1, 2, 4, 8] : [0, 0.5, 1]).map((t) => ({
        at: x(t),
        text: smoothing ? String(t) : `${t * 100} %`,
      }))}
      up={y.ticks(3).map((t) => ({ at: y(t), text: percent(t, most < 1.03 ? 1 : 0) }))}
      onHover={(px) => setHover(px === null ? null : nearest(px))}
      slider={{
        value: now,
        most: last,
        text: `${smoothing ? `${now} s` : `${Math.round(aim.amounts.x * 100)} %`}, ${percent(at.zoom)}`,
        onPick: () => hover && pick(hover),
        onKeyDown,
      }}
      caption={
        hover ? (
          word(hover)
        ) : (
          <span className="quiet">
            {smoothing ? 'seconds of smoothing' : 'share of the present amounts'} across, fit zoom up; press
            to pick
          </span>
        )
      }
    >
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
      <PlotLine at={x(Math.min(now, last))} height={HEIGHT} />
    </Plot>
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
