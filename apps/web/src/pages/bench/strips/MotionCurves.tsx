import { useMemo } from 'react';
import type { Steady } from '@lurn/core';
import type { Part, Span } from '../../../state/bench';
import { MOTION } from './axis';
import { Curve, type CurveLine, type OnAxis } from './Curve';

const ROWS: readonly {
  readonly key: Part;
  readonly label: string;
  readonly unit: string;
  readonly times: number;
  readonly decimals: number;
}[] = [
  { key: 'x', label: 'Across', unit: 'px', times: 1, decimals: 2 },
  { key: 'y', label: 'Up-down', unit: 'px', times: 1, decimals: 2 },
  { key: 'rotation', label: 'Rotation', unit: '°', times: 180 / Math.PI, decimals: 3 },
  { key: 'logScale', label: 'Scale', unit: '%', times: 100, decimals: 2 },
];

export const MOTION_ROWS = ROWS.length;

/** Measured and wanted motion, and the correction on a scale of its own, component by component. */
export function MotionCurves({ plan, range: { from, to }, ...axis }: OnAxis & { plan: Steady; range: Span }) {
  const rows = useMemo(
    () =>
      ROWS.map(({ key, times }): CurveLine[] => {
        const over = (value: (f: number) => number) =>
          Float64Array.from({ length: to - from + 1 }, (_, i) => value(from + i) * times);
        const { parts } = plan.motion;
        return [
          { values: over((f) => parts[f][key]), colour: 'var(--color-secondary)', name: 'shot' },
          {
            values: over((f) => plan.wanted[f][key]),
            colour: 'var(--color-base-content)',
            name: 'wanted',
            dash: '5 3',
          },
          {
            values: over((f) => plan.left[f][key] - parts[f][key]),
            colour: 'var(--color-primary)',
            name: 'corr.',
            apart: true,
          },
        ];
      }),
    [plan, from, to],
  );
  return ROWS.map(({ key, label, unit, decimals }, i) => (
    <Curve
      key={key}
      {...axis}
      label={label}
      lines={rows[i]}
      from={from}
      format={(v) => `${v.toFixed(decimals)} ${unit}`}
      height={MOTION}
    />
  ));
}
