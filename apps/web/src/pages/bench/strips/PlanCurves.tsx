import { useMemo } from 'react';
import type { Plan } from '@lurn/core/plan';
import { percent, pixels } from '../../../lib/format';
import { isMeasured } from '../../../lib/measured';
import type { Span } from '../../../state/bench';
import { Curve, type OnAxis } from './Curve';

/** How far what is held is off its place, as shot and steadied. */
export function LeftCurve({ plan, from, ...axis }: OnAxis & { plan: Plan | null; from: number }) {
  const lines = useMemo(
    () =>
      plan
        ? [
            { values: plan.measure.beforeByFrame, colour: 'var(--color-secondary)', name: 'as shot' },
            ...(isMeasured(plan)
              ? [{ values: plan.measure.afterByFrame, colour: 'var(--color-primary)', name: 'steadied' }]
              : []),
          ]
        : [],
    [plan],
  );
  return <Curve {...axis} label="Off its place" lines={lines} from={from} format={pixels} floor={0} />;
}

/** The zoom that every frame would need, the zoom that it has, and the frames on which an edge shows. */
export function ZoomCurve({
  plan,
  range: { from, to },
  ...axis
}: OnAxis & { plan: Plan | null; range: Span }) {
  const lines = useMemo(
    () =>
      plan
        ? [
            { values: plan.needed.slice(from, to + 1), colour: 'var(--color-base-content)', name: 'needed' },
            {
              values: plan.zooms.slice(from, to + 1),
              colour: 'var(--color-primary)',
              name: 'applied',
              dash: [5, 4] as const,
            },
          ]
        : [],
    [plan, from, to],
  );
  return (
    <Curve
      {...axis}
      label="Zoom"
      lines={lines}
      from={from}
      format={(v) => percent(v)}
      floor={1}
      ceiling={3}
      marks={plan?.edgeFrames}
    />
  );
}
