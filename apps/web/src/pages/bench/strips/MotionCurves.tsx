import { useMemo } from 'react';
import type { Plan } from '@lurn/core/plan';
import { PARTS } from '../../../lib/words';
import type { Span } from '../../../state/bench';
import { MOTION } from './axis';
import { Curve, type CurveLine, type OnAxis } from './Curve';

export const MOTION_ROWS = PARTS.length;

/** Measured and wanted motion, and the correction on a scale of its own, component by component. */
export function MotionCurves({ plan, range: { from, to }, ...axis }: OnAxis & { plan: Plan; range: Span }) {
  const rows = useMemo(
    () =>
      PARTS.map(({ key, times }): CurveLine[] => {
        const over = (value: (f: number) => number) =>
          Float64Array.from({ length: to - from + 1 }, (_, i) => value(from + i) * times);
        const { parts } = plan.motion;
        return [
          { values: over((f) => parts[f][key]), colour: 'var(--color-secondary)', name: 'shot' },
          {
            values: over((f) => plan.wanted[f][key]),
            colour: 'var(--color-base-content)',
            name: 'wanted',
            dash: [5, 3],
          },
          {
            values: over((f) => plan.kept[f][key] - parts[f][key]),
            colour: 'var(--color-primary)',
            name: 'corr.',
            apart: true,
          },
        ];
      }),
    [plan, from, to],
  );
  return PARTS.map(({ key, name, unit, decimals }, i) => (
    <Curve
      key={key}
      {...axis}
      label={name}
      lines={rows[i]}
      from={from}
      format={(v) => `${v.toFixed(decimals)} ${unit}`}
      height={MOTION}
    />
  ));
}
